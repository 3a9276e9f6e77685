import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import { api, asked, type Schemas } from "../api/client";
import { useMe } from "../api/queries";
import { Fault } from "../ui/Fault";
import { HowFar } from "../ui/HowFar";
import { moment } from "../ui/words";
import { CloseOrganisation } from "./CloseOrganisation";

const POLL = 1_500;
type Archive = Schemas["MadeView"];
const underWay = (one: Archive) => !one.finished_at && !one.failed;

/** What is known of oneself; for a lead everything of the organisation in one file, made while the page may be closed. */
export function Archives() {
  const me = useMe().data;
  return (
    <section>
      <h2>To take away</h2>
      <p>
        <a href="/api/me/data.json" download>
          What is known of you
        </a>
        : where you are signed in, what you asked for by mail, the jobs that you worked on.
      </p>
      {me?.leads && <OfOrganisation />}
    </section>
  );
}

function OfOrganisation() {
  const cache = useQueryClient();
  const found = useQuery({
    queryKey: ["archives"],
    queryFn: () => asked(api.GET("/api/archives")),
    refetchInterval: ({ state }) => (state.data?.some(underWay) ? POLL : false),
  });
  const make = useMutation({
    mutationFn: () => asked(api.POST("/api/archives")),
    onSettled: () => cache.invalidateQueries({ queryKey: ["archives"] }),
  });
  return (
    <>
      <p>
        Everything of the organisation in one file: sealed records, open jobs, photographs, every row. It is made while
        you go on, and kept for a week.
      </p>
      {found.data?.map((one) => (
        <div key={one.id} className="cell-row">
          <span>
            Asked for by {one.by}, {moment(one.at)}
            <small className="soft d-block">{became(one)}</small>
          </span>
          {underWay(one) && one.of > 0 && <HowFar done={one.done} of={one.of} what="Made" />}
          {one.finished_at && !one.gone && (
            <a className="btn btn-outline-primary" href={`/api/archives/${one.id}/file.zip`} download>
              Take it, ZIP
            </a>
          )}
        </div>
      ))}
      <Button
        variant="outline-primary"
        className="mt-2"
        disabled={found.data?.some(underWay)}
        onClick={() => make.mutate()}
      >
        Make an archive
      </Button>
      <Fault of={make.error ?? found.error} />
      <CloseOrganisation />
    </>
  );
}

function became(one: Archive) {
  if (one.failed) return `not made: ${one.failed}`;
  if (one.gone) return "let go of after a week";
  if (one.finished_at) return `${(one.size / 1e6).toFixed(1)} MB, ready ${moment(one.finished_at)}`;
  return one.done ? "being made" : "waits for its turn";
}
