import type { ReactNode } from "react";

/** A button that asks for one file. */
export function FileButton({
  accept,
  onFile,
  children,
}: {
  accept: string;
  onFile: (file: File) => void;
  children: ReactNode;
}) {
  return (
    <label className="btn btn-link">
      {children}
      <input
        type="file"
        accept={accept}
        className="visually-hidden"
        onChange={(event) => {
          const file = event.target.files?.[0];
          // The same file can be chosen again once it was mended.
          event.target.value = "";
          if (file) onFile(file);
        }}
      />
    </label>
  );
}
