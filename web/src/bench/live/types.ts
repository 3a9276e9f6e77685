import type { Schemas } from "../../api/client";

export type Reading = Schemas["Live"];
export type Readout = Schemas["Readout"];
export type Control = Schemas["Control"];
export type Scale = Schemas["Scale"];
export type LinkOfJob = Schemas["LinkOfJob"];
