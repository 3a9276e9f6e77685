import type { Schemas } from "../api/client";

export type Level = Schemas["ScenarioRow"]["level"];

export const LEVELS: readonly Level[] = ["easy", "fair", "hard"];
