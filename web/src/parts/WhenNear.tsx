// Something tall to draw, drawn once it comes near the window; its place is kept meanwhile.

import { useEffect, useRef, useState } from "react";
import { flushSync } from "react-dom";

export function WhenNear({
  height,
  atOnce,
  children,
}: {
  height: number;
  /** Whether it is in view from the beginning. */
  atOnce: boolean;
  children: () => React.ReactNode;
}) {
  const [near, setNear] = useState(atOnce);
  const place = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    if (near || !place.current) return;
    const seen = (all: IntersectionObserverEntry[]) => all.some((e) => e.isIntersecting) && setNear(true);
    const observer = new IntersectionObserver(seen, { rootMargin: "800px" });
    observer.observe(place.current);
    // On paper everything is near.
    const onPaper = () => flushSync(() => setNear(true));
    window.addEventListener("beforeprint", onPaper);
    return () => {
      observer.disconnect();
      window.removeEventListener("beforeprint", onPaper);
    };
  }, [near]);
  return (
    <span ref={place} className="block min-w-0" style={near ? undefined : { height }}>
      {near && children()}
    </span>
  );
}
