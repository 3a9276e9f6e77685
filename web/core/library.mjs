/**
 * How a Python is begun from which a memory snapshot can be taken, and one that goes on from such a snapshot.
 *
 * Three things make a snapshot hold. The native library is put in place before Python begins, at the same moment when
 * the snapshot is made and when it is used, and at the same place of the table of functions, so that its functions
 * and its data lie where the snapshot expects them. Memory is grown before it is written over. And what the runtime
 * found out about this very browser (how functions are called fastest in it) is put back into the memory afterwards.
 *
 * What is used of the runtime beyond its documented calls: `createPyodideModule`, `_makeSnapshot`, `_loadSnapshot`.
 */

/** Places of the table that are left free before the library: a browser may need some that the maker did not. */
const SPARE = 16;

/** Where the memory holds the function by which Python calls others, or 0 where this browser has none. */
const trampoline = (module) => (module.__PyRuntime + module.HEAP32[module.__PyEM_EMSCRIPTEN_TRAMPOLINE_OFFSET >>> 2]) >>> 2;

/**
 * Makes the module of the runtime, with the library in place.
 *
 * @param create makes it without
 * @param native where Python finds the library (`path`), the compiled library (`library`), and its place in the table of
 *   functions (`base`), which is written there where a snapshot is to be made
 * @param snapshot what is gone on from, or nothing where one is to be made
 */
export const beginning = (create, native, snapshot) => async (settings) => {
  const inPlace = (module) => {
    const table = module.wasmTable;
    native.base ??= table.length + SPARE;
    if (native.base < table.length) throw new Error("there is no room for the library where the snapshot expects it");
    table.grow(native.base - table.length);
    const how = { loadAsync: false, global: false, nodelete: true, allowUndefined: true };
    module.preloadedWasm[native.path] = module.loadWebAssemblyModule(native.library, how, native.path, {}, 0);
    module.loadDynamicLibrary(native.path, how, {});
    native.calls = module.HEAP32[trampoline(module)];
  };
  settings.preRun = [...(settings.preRun ?? []), inPlace];
  if (snapshot) settings.noInitialRun = true;
  const module = await create(settings);
  if (snapshot) module._free(module._malloc(snapshot.length));
  return module;
};

/** What is left to be done once the snapshot is back: see above. */
export const goneOn = (python, native) => {
  python._module.HEAP32[trampoline(python._module)] = native.calls;
  python.runPython("import random; random.seed()");
};

/** What the runtime is told of packages: there are none but those of the archives. */
export const LOCK = {
  info: {
    abi_version: "2026_0",
    arch: "wasm32",
    platform: "emscripten_5_0_3",
    python: "3.14.2",
    version: "314.0.7",
  },
  packages: {},
};

/** Objects of JavaScript that Python knows when the snapshot is made, and that are not found by a path: none is of use. */
export const NOTHING = () => ({});
