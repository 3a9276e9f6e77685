/** What the build packed for the browser's core: its files by name, under `/static/core/`. */
declare const CORE: {
  runtime: string;
  site: string;
  wary: string;
  files: Record<string, { size: number; sent: number; sha256: string }>;
};
