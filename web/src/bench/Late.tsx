import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useNavigate } from "react-router";
import { api, asked } from "../api/client";
import { queries } from "../api/queries";
import { signedIn } from "../api/session";
import { boxOf } from "../job/outbox";
import { useBench } from "../job/useJob";
import { Fault } from "../ui/Fault";
import { counted } from "../ui/words";

const WHY = "Some of it was typed without signal, and sent after it was closed.";

/** What was typed on this device into a job that somebody closed meanwhile: offered for a job that puts it right, never put in unasked. */
export function Late() {
  const { job, box } = useBench();
  const navigate = useNavigate();
  const [fault, setFault] = useState<unknown>(null);
  if (box.held !== "closed" || !box.waiting.length) return null;
  const own = boxOf(
    signedIn(),
    job.id,
    () => job.entries,
    () => undefined,
  );
  const putRight = async () => {
    try {
      const params = { path: { record_id: job.record! } };
      const again = await asked(api.POST("/api/records/{record_id}/put-right", { params, body: { reason: WHY } }));
      queries.setQueryData(["job", again.id], again);
      const entries = box.waiting.map((entry) => ({
        ...{ id: crypto.randomUUID(), path: entry.path, text: entry.text, unit: entry.unit, source: entry.source },
        ...{ steady: entry.steady, raw: entry.raw ?? "", undoes: false, at: entry.at },
        supersedes: again.fields[entry.path]?.id ?? null,
      }));
      const holds = () => queries.getQueryData<{ entries: number }>(["job", again.id])?.entries;
      boxOf(signedIn(), again.id, holds, () => void queries.invalidateQueries({ queryKey: ["job", again.id] })).add(
        entries,
      );
      await own.letGo();
      navigate(`/jobs/${again.id}`);
    } catch (wrong) {
      setFault(wrong);
    }
  };
  return (
    <section className="say fault" aria-label="Typed after it was closed">
      <strong>
        {counted(box.waiting.length, "entry", "entries")} of yours came after this job was closed by{" "}
        {job.closing?.closed_by}
      </strong>
      <p>
        {job.may_lead
          ? "They are kept on this device. A job that puts the record right can take them."
          : "They are kept on this device. A lead can put the record right with them; show them, or keep them as a file."}
      </p>
      <Fault of={fault} />
      {job.may_lead && job.record && (
        <Button className="me-2" onClick={() => void putRight()}>
          Put the record right with them
        </Button>
      )}
      <Button variant="outline-primary" onClick={() => void own.letGo()}>
        Throw them away
      </Button>
    </section>
  );
}
