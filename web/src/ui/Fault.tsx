import type { ReactNode } from "react";
import { Problem } from "../api/client";

/** A place that stands in a file and in no field of the page. */
const inAFile = (path: string) => /^(line |inputs\b)/.test(path);

/** Such a place in words: `inputs.runs[0].gross` is the gross of runs 1. */
const inWords = (path: string) =>
  path
    .replace(/^inputs\.?/, "")
    .replace(/\[(\d+)\]/g, (_, place: string) => ` ${Number(place) + 1}`)
    .replace(/\./g, ", ")
    .replace(/_/g, " ") || "inputs";

/** What went wrong, why, and what to do. */
export function Fault({ of, children }: { of: unknown; children?: ReactNode }) {
  if (!of) return null;
  const problem = of instanceof Problem ? of : null;
  return (
    <div className="say fault" role="alert">
      <strong>{problem?.title ?? "This page could not be shown"}</strong>
      {problem?.detail && <p>{problem.detail}</p>}
      {problem?.errors.map((error) => (
        <p key={error.path + error.text}>
          {inAFile(error.path) && <b>{inWords(error.path)}: </b>}
          {error.text}
        </p>
      ))}
      {children}
    </div>
  );
}

export function Waiting() {
  return (
    <p className="page soft" role="status">
      One moment…
    </p>
  );
}
