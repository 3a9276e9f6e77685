import Button from "react-bootstrap/Button";
import { useReferences } from "../../api/queries";
import { useBench } from "../../job/useJob";
import { type Code, labelled } from "../../ui/scan/codes";
import { Scan } from "../../ui/scan/Scan";

const MOST = 4;

/** Containers whose tare is on record: a tap types it, while none stands there. */
export function Tares({ path }: { path: string }) {
  const bench = useBench();
  const containers = (useReferences().data ?? []).filter((one) => one.kind === "container" && one.tare);
  const { kept, waits } = bench.field(path);
  // One that a row begins with may still be another.
  if (!containers.length || kept?.text || waits) return null;
  const scanned = (code: Code) => {
    const found = labelled(code, containers);
    if (!found) return "This is no container on record.";
    bench.enter({ path, text: found.tare });
  };
  return (
    <div className="tares" role="group" aria-label="Containers on record">
      {containers.slice(0, MOST).map((one) => (
        <Button key={one.id} variant="link" onClick={() => bench.enter({ path, text: one.tare })}>
          {one.name}
          {one.label && `, ${one.label}`}: {one.tare}
        </Button>
      ))}
      <Scan title="Which container?" onCode={scanned} />
    </div>
  );
}
