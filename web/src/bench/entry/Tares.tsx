import Button from "react-bootstrap/Button";
import { useReferences } from "../../api/queries";
import { useBench } from "../../job/useJob";

const MOST = 4;

/** Containers whose tare is on record: a tap types it, while none stands there. */
export function Tares({ path }: { path: string }) {
  const bench = useBench();
  const containers = (useReferences().data ?? []).filter((one) => one.kind === "container" && one.tare);
  if (!containers.length || bench.field(path).text) return null;
  return (
    <div className="tares" role="group" aria-label="Containers on record">
      {containers.slice(0, MOST).map((one) => (
        <Button key={one.id} variant="link" onClick={() => bench.enter({ path, text: one.tare })}>
          {one.name}
          {one.label && `, ${one.label}`}: {one.tare}
        </Button>
      ))}
    </div>
  );
}
