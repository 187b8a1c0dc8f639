import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api, type CandidateView } from "../../lib/api";
import { useFreshView } from "../../lib/hooks";
import { photos, usePhotos } from "../../lib/photos";
import { FileButton } from "../../parts/FileButton";

/** A picture that is on this device alone. */
function LocalPicture({ photo, alt }: { photo: Blob; alt: string }) {
  const ref = useRef<HTMLImageElement>(null);
  useEffect(() => {
    const url = URL.createObjectURL(photo);
    if (ref.current) ref.current.src = url;
    return () => URL.revokeObjectURL(url);
  }, [photo]);
  return <img ref={ref} alt={alt} className="h-20 w-full object-cover" />;
}

/** Pictures of a check: taken with the camera, kept here until they are stored. */
export function Photos({
  view,
  family,
  check,
  name,
}: {
  view: CandidateView;
  family: string;
  check: string;
  name: string;
}) {
  const fresh = useFreshView();
  const waiting = usePhotos().waiting.filter(
    (p) => p.candidate === view.id && p.family === family && p.check === check,
  );
  const stored = view.attachments.filter((a) => a.family === family && a.check === check);
  const take = useMutation({
    mutationFn: (file: string) => api.undoAttachment(view.id, file, true),
    onSuccess: fresh,
  });
  return (
    <div className="mt-2">
      {(stored.length > 0 || waiting.length > 0) && (
        <ul className="mb-2 flex flex-wrap gap-2" aria-label={`Photos of ${name}`}>
          {stored.map((a, n) => (
            <li key={a.id} className="w-28 border-2 border-ink bg-raised">
              <a href={`/api/candidates/${view.id}/attachments/${a.id}`} target="_blank" rel="noreferrer">
                <img
                  src={`/api/candidates/${view.id}/attachments/${a.id}`}
                  alt={`Photo ${n + 1} of ${name}`}
                  loading="lazy"
                  className="h-20 w-full object-cover"
                />
              </a>
              <button
                type="button"
                className="sign min-h-11 w-full underline underline-offset-2"
                disabled={take.isPending}
                aria-label={`Take photo ${n + 1} of ${name} away`}
                onClick={() => take.mutate(a.id)}
              >
                Take away
              </button>
            </li>
          ))}
          {waiting.map((p) => (
            <li key={p.id} className="w-28 border-2 border-dashed border-ink bg-raised">
              <LocalPicture photo={p.photo} alt={`Photo waiting, ${p.title}`} />
              {p.refused ? (
                <>
                  <p role="alert" className="px-1 text-[0.85rem] leading-tight text-caution">
                    {p.refused}
                  </p>
                  <button
                    type="button"
                    className="sign min-h-11 w-full underline underline-offset-2"
                    onClick={() => photos.retry(p.id)}
                  >
                    Send again
                  </button>
                  <button
                    type="button"
                    className="sign min-h-11 w-full underline underline-offset-2"
                    onClick={() => photos.discard(p.id)}
                  >
                    Let it go
                  </button>
                </>
              ) : (
                <p className="sign min-h-11 px-1 pt-2 text-center">waiting</p>
              )}
            </li>
          ))}
        </ul>
      )}
      {take.error && (
        <p role="alert" className="text-caution">
          {take.error.message}
        </p>
      )}
      <FileButton
        label={`Photos of ${name}`}
        accept="image/jpeg,image/png,image/webp"
        multiple
        camera
        onChoose={(files) => photos.add(view.id, family, check, files)}
      >
        <svg width="22" height="18" viewBox="0 0 22 18" aria-hidden="true">
          <path d="M1 4h5l2-3h6l2 3h5v13H1z" fill="none" stroke="currentColor" strokeWidth="2" />
          <circle cx="11" cy="10" r="4" fill="none" stroke="currentColor" strokeWidth="2" />
        </svg>
        {stored.length + waiting.length > 0 ? "Another photo" : "Photo"}
      </FileButton>
    </div>
  );
}
