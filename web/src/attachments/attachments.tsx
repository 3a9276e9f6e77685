import { useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useEffect, useMemo, useState, useSyncExternalStore } from "react";
import { api, asked } from "../api/client";
import { useMe } from "../api/queries";
import { signedIn } from "../api/session";
import { type Attachment, attachmentBoxOf } from "./box";
import type { WaitingAttachment } from "../job/store";

/** The photographs and papers of a job: those that are kept, those that wait, and which one is looked at. */
export interface Attachments {
  kept: Attachment[];
  waiting: WaitingAttachment[];
  refused: WaitingAttachment[];
  unowned: WaitingAttachment[];
  held: boolean;
  add: (files: File[], path: string) => void;
  change: (id: string, given: { on_certificate?: boolean; set_aside?: string }) => Promise<void>;
  forget: (id: string) => void;
  again: (id: string) => void;
  own: () => void;
  shown: Attachment | null;
  show: (paper: Attachment | null) => void;
}

const AttachmentsContext = createContext<Attachments | null>(null);
const EVERY = 15_000;

export function AttachmentsOf({ job, open, children }: { job: string; open: boolean; children: ReactNode }) {
  const cache = useQueryClient();
  const key = useMemo(() => ["attachments", job], [job]);
  const person = useMe().data?.id ?? signedIn();
  const box = attachmentBoxOf(person, job, (paper) =>
    cache.setQueryData<Attachment[]>(key, (held = []) => [...held.filter((one) => one.id !== paper.id), paper]),
  );
  const state = useSyncExternalStore(box.subscribe, box.snapshot);
  const found = useQuery({
    queryKey: key,
    queryFn: () => asked(api.GET("/api/jobs/{job_id}/attachments", { params: { path: { job_id: job } } })),
    refetchInterval: open ? EVERY : false,
  });
  const [shown, show] = useState<Attachment | null>(null);
  const kept = found.data;
  const value = useMemo<Attachments>(
    () => ({
      kept: kept ?? [],
      waiting: state.waiting,
      refused: state.refused,
      unowned: state.unowned,
      held: state.held,
      add: (files, path) => void box.add(files, path),
      change: async (id, body) => {
        cache.setQueryData<Attachment[]>(key, (held = []) =>
          held.map((one) => (one.id === id ? { ...one, ...body } : one)),
        );
        const paper = await asked(
          api.PATCH("/api/attachments/{attachment_id}", { params: { path: { attachment_id: id } }, body }),
        );
        cache.setQueryData<Attachment[]>(key, (held = []) => held.map((one) => (one.id === id ? paper : one)));
      },
      forget: (id) => void box.forget(id),
      again: (id) => void box.again(id),
      own: () => void box.own(),
      shown,
      show,
    }),
    [box, cache, kept, key, shown, state],
  );
  return <AttachmentsContext value={value}>{children}</AttachmentsContext>;
}

/** The attachments of the job that a component stands in; null where there is none. */
export const useAttachments = () => useContext(AttachmentsContext);

export const fileOf = (paper: Attachment) => `/api/attachments/${paper.id}/file`;
export const smallOf = (paper: Attachment) => `/api/attachments/${paper.id}/small`;
export const isPicture = (paper: { kind: string }) => paper.kind !== "application/pdf";

/** The address of a file that waits in this browser, for as long as it is shown. */
export function useWaiting(file: Blob): string {
  const [url, setUrl] = useState("");
  useEffect(() => {
    const made = URL.createObjectURL(file);
    setUrl(made);
    return () => URL.revokeObjectURL(made);
  }, [file]);
  return url;
}
