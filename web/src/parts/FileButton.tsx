import { useRef, type ReactNode } from "react";

/** A key that lets the person choose files. The same file can be chosen again. */
export function FileButton({
  label,
  accept,
  multiple = false,
  disabled = false,
  camera = false,
  className = "btn",
  onChoose,
  children,
}: {
  /** What the file is, for those who do not see the key. */
  label: string;
  accept: string;
  multiple?: boolean;
  disabled?: boolean;
  /** Whether a phone opens its camera rather than its pictures. */
  camera?: boolean;
  className?: string;
  onChoose: (files: File[]) => void;
  children: ReactNode;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <button type="button" className={className} disabled={disabled} onClick={() => input.current?.click()}>
        {children}
      </button>
      <input
        ref={input}
        type="file"
        accept={accept}
        multiple={multiple}
        capture={camera ? "environment" : undefined}
        className="sr-only"
        tabIndex={-1}
        aria-label={label}
        onChange={(e) => {
          const chosen = [...(e.target.files ?? [])];
          e.target.value = "";
          if (chosen.length > 0) onChoose(chosen);
        }}
      />
    </>
  );
}
