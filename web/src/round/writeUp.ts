import { useQuery } from "@tanstack/react-query";
import { api, asked, type Schemas } from "../api/client";

/** The job that is being written up: another one is offered after it, and after no other. */
const WRITING = "writing up";

/** A job opens where it is closed, and the one after it is offered once it is. */
export function toClose(job: string) {
  sessionStorage.setItem(`hand ${job}`, JSON.stringify({ part: "", step: "close" }));
  sessionStorage.setItem(WRITING, job);
}

/** What is to be written up after this one; nothing where somebody does not write up. */
export function useNextToWriteUp(job: string): Schemas["ToWriteUp"] | undefined {
  const writing = sessionStorage.getItem(WRITING) === job;
  const rows = useQuery({
    queryKey: ["write-up", "after", job],
    queryFn: () => asked(api.GET("/api/write-up")),
    enabled: writing,
    staleTime: 0,
  }).data;
  return rows?.find((row) => row.mine && row.job !== job);
}
