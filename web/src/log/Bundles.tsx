import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import { api, asked, type Schemas } from "../api/client";
import { Fault } from "../ui/Fault";
import { HowFar } from "../ui/HowFar";
import { counted, day, moment } from "../ui/words";

const KEY = ["bundles"];
const POLL = 1_000;
type Bundle = Schemas["BundleView"];
const underWay = (one: Bundle) => !one.finished_at && !one.failed;

/** Certificates put together: asked for here, made while the page may be closed, and taken when they are there. */
export function Bundles({ since, until, site }: { since?: string; until?: string; site?: string }) {
  const cache = useQueryClient();
  const found = useQuery({
    queryKey: KEY,
    queryFn: () => asked(api.GET("/api/bundles")),
    refetchInterval: ({ state }) => (state.data?.some(underWay) ? POLL : false),
  });
  const make = useMutation({
    mutationFn: (kind: Bundle["kind"]) =>
      asked(
        api.POST("/api/bundles", { body: { kind, since: since || null, until: until || null, site: site || null } }),
      ),
    onSettled: () => cache.invalidateQueries({ queryKey: KEY }),
  });
  return (
    <div className="bundles">
      <Button variant="outline-primary" onClick={() => make.mutate("pdf")}>
        One PDF
      </Button>
      <Button variant="outline-primary" onClick={() => make.mutate("zip")}>
        Each in a ZIP
      </Button>
      <Fault of={make.error ?? found.error} />
      {found.data?.map((one) => (
        <div key={one.id} className="cell-row">
          <span>
            {one.kind === "pdf" ? "One PDF" : "ZIP"}, {period(one)}
            <small className="soft d-block">{became(one)}</small>
          </span>
          {underWay(one) && one.of > 0 && <HowFar done={one.done} of={one.of} what="Put together" />}
          {one.finished_at && (
            <a className="btn btn-outline-primary" href={`/api/bundles/${one.id}/file`} download>
              Take it
            </a>
          )}
        </div>
      ))}
    </div>
  );
}

const period = (one: Bundle) =>
  [one.since && `from ${day(one.since, "UTC")}`, one.until && `to ${day(one.until, "UTC")}`]
    .filter(Boolean)
    .join(" ") || "all";

function became(one: Bundle) {
  if (one.failed) return one.failed;
  if (one.finished_at) return `${counted(one.of, "certificate")}, ready ${moment(one.finished_at)}`;
  return one.done ? "being put together" : "waits for its turn";
}
