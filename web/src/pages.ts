import { queryOptions } from "@tanstack/react-query";
import type { ComponentType } from "react";

/** The pages, each a file of its own that is fetched when it is first shown. */
const PAGES = {
  round: () => import("./round/Round").then((m) => m.Round),
  systems: () => import("./plant/Systems").then((m) => m.Systems),
  system: () => import("./plant/SystemPage").then((m) => m.SystemPage),
  bench: () => import("./bench/Bench").then((m) => m.Bench),
  loads: () => import("./loads/LoadLog").then((m) => m.LoadLog),
  log: () => import("./log/Log").then((m) => m.Log),
  record: () => import("./log/RecordPage").then((m) => m.RecordPage),
  references: () => import("./references/References").then((m) => m.References),
  reference: () => import("./references/ReferencePage").then((m) => m.ReferencePage),
  sums: () => import("./sums/Sums").then((m) => m.Sums),
  practice: () => import("./practice/Practice").then((m) => m.Practice),
  truth: () => import("./practice/Truth").then((m) => m.Truth),
  progress: () => import("./practice/Progress").then((m) => m.Progress),
  instructor: () => import("./practice/Instructor").then((m) => m.Instructor),
  instruments: () => import("./instruments/Instruments").then((m) => m.Instruments),
  calendar: () => import("./round/Calendar").then((m) => m.Calendar),
  faults: () => import("./log/WhatFails").then((m) => m.WhatFails),
  due: () => import("./log/DueDates").then((m) => m.DueDates),
  chain: () => import("./log/Chain").then((m) => m.Chain),
  people: () => import("./people/People").then((m) => m.People),
  writeUp: () => import("./round/WriteUp").then((m) => m.WriteUp),
  week: () => import("./log/Week").then((m) => m.Week),
  setUp: () => import("./plant/SetUp").then((m) => m.SetUp),
  programs: () => import("./programs/Programs").then((m) => m.Programs),
  description: () => import("./programs/Description").then((m) => m.Description),
  mails: () => import("./mail/Mails").then((m) => m.Mails),
  stopMail: () => import("./mail/StopMail").then((m) => m.StopMail),
  invited: () => import("./account/Invited").then((m) => m.Invited),
  forgotten: () => import("./account/Forgotten").then((m) => m.Forgotten),
  newPassword: () => import("./account/NewPassword").then((m) => m.NewPassword),
  factorLost: () => import("./account/FactorLost").then((m) => m.FactorLost),
  confirmAddress: () => import("./account/ConfirmAddress").then((m) => m.ConfirmAddress),
  nowhere: () => import("./account/NoOrganisation").then((m) => m.NoOrganisation),
  factorFirst: () => import("./account/FactorFirst").then((m) => m.FactorFirst),
  door: () => import("./log/BehindDoor").then((m) => m.BehindDoor),
  about: () => import("./about/About").then((m) => m.About),
} satisfies Record<string, () => Promise<ComponentType>>;

export type PageName = keyof typeof PAGES;

/** A page's own script, asked for like anything else; a boundary that waits would show it 300 ms late. */
export const pageQuery = (name: PageName) =>
  queryOptions<ComponentType>({
    queryKey: ["page", name],
    queryFn: PAGES[name],
    networkMode: "always",
    staleTime: Infinity,
    gcTime: Infinity,
  });
