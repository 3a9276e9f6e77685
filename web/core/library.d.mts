import type { PyodideInterface } from "pyodide";

type Begin = (settings: never) => Promise<never>;
export interface Native {
  path: string;
  library: WebAssembly.Module;
  base?: number;
}
export function beginning(create: Begin, native: Native, snapshot?: Uint8Array): Begin;
export function goneOn(python: PyodideInterface, native: Native): void;
export const LOCK: object;
export const NOTHING: () => object;
