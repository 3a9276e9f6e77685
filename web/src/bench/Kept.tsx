import { Link } from "react-router";
import { useBench } from "../job/useJob";
import { usePapers } from "../papers/papers";
import { counted } from "../ui/words";

const WHY = {
  "": "",
  offline: "server out of reach",
  "signed-out": "sign in again to send them",
  gone: "this job is no longer here",
};

/** “14 entries kept”, or what waits and why. It says kept only of what the server has. */
export function Kept() {
  const { job, box, open } = useBench();
  const waiting = box.waiting.length;
  const photographs = usePapers()?.waiting.length ?? 0;
  if (!open) return <span className="kept">closed, {counted(job.entries, "entry", "entries")}</span>;
  const late = box.held !== "";
  const text =
    waiting && late
      ? `${waiting} waiting to be sent`
      : `${counted(job.entries, "entry", "entries")} kept${waiting ? `, ${waiting} on the way` : ""}`;
  return (
    <span className={`kept${late ? " kept-late" : ""}`} role="status">
      <i aria-hidden="true" />
      <span>
        {text}
        {photographs > 0 && `, ${counted(photographs, "photograph")} waiting`}
        {late && <small>{WHY[box.held]}</small>}
      </span>
      {box.held === "signed-out" && <Link to="/sign-in">Sign in</Link>}
    </span>
  );
}
