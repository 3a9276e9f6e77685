/** The pages, each a file of its own that is fetched when it is first shown. */
export const PAGES = {
  round: () => import("./round/Round").then((m) => ({ default: m.Round })),
  systems: () => import("./plant/Systems").then((m) => ({ default: m.Systems })),
  system: () => import("./plant/SystemPage").then((m) => ({ default: m.SystemPage })),
  bench: () => import("./bench/Bench").then((m) => ({ default: m.Bench })),
  log: () => import("./log/Log").then((m) => ({ default: m.Log })),
  record: () => import("./log/RecordPage").then((m) => ({ default: m.RecordPage })),
  references: () => import("./references/References").then((m) => ({ default: m.References })),
  sums: () => import("./sums/Sums").then((m) => ({ default: m.Sums })),
  practice: () => import("./practice/Practice").then((m) => ({ default: m.Practice })),
  people: () => import("./people/People").then((m) => ({ default: m.People })),
};
