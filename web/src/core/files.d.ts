/** What the build packed for the browser's core: its files by name, under `/static/core/`. */
declare const CORE: {
  runtime: string;
  site: string;
  wary: string;
  /** The native library, where Python finds it, and its place in the table of functions. */
  library: { file: string; path: string; base: number };
  /** The memory of a Python with everything imported. */
  snapshot: string;
  /** An archive with nothing in it. */
  nothing: string;
  files: Record<string, { size: number; sent: number; sha256: string }>;
};
