import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Link } from "react-router";
import { useBench } from "../job/useJob";
import { useAttachments } from "../attachments/attachments";
import { counted } from "../ui/words";

const WHY = {
  "": "",
  offline: "server out of reach",
  "signed-out": "sign in again to send them",
  gone: "you may not work on this job any more",
  closed: "the job was closed meanwhile",
};

/** “14 entries kept”, or what waits and why. It says kept only of what the server has. */
export function Kept() {
  const { job, box, here, local, opening, sealing, open, own, layAside } = useBench();
  const attachments = useAttachments();
  const waiting = box.waiting.length;
  const photographs = attachments?.waiting.length ?? 0;
  const refused = attachments?.refused.length ?? 0;
  const notTaken = box.refused.length;
  const [notMine, setNotMine] = useState(false);
  const unowned = notMine ? 0 : box.unowned.length + (attachments?.unowned.length ?? 0);
  if (unowned)
    return (
      <span className="kept kept-late" role="status">
        <i aria-hidden="true" />
        <span>
          {counted(unowned, "thing")} typed or photographed here earlier {unowned === 1 ? "waits" : "wait"}
          <small>nobody knows any more by whom</small>
        </span>
        <Button
          variant="link"
          onClick={() => {
            own();
            attachments?.own();
          }}
        >
          By me: send
        </Button>
        <Button variant="link" onClick={() => setNotMine(true)}>
          Not by me
        </Button>
      </span>
    );
  if (sealing && !sealing.back)
    return (
      <span className="kept kept-late" role="status">
        <i aria-hidden="true" />
        <span>
          closed on this device<small>sealed when the server is in reach</small>
        </span>
      </span>
    );
  if (opening?.back)
    return (
      <span className="kept kept-late" role="status">
        <i aria-hidden="true" />
        <span>
          not taken by the server<small>{opening.back}</small>
        </span>
        <Button
          variant="link"
          onClick={() => void local.file().then((file) => savedAs(file, `${job.system.name}.json`))}
        >
          Keep it as a job file
        </Button>
      </span>
    );
  if (opening)
    return (
      <span className="kept kept-late" role="status">
        <i aria-hidden="true" />
        <span>
          begun on this device{waiting > 0 && `, ${counted(waiting, "entry", "entries")} typed`}
          <small>sent when the server is in reach</small>
        </span>
      </span>
    );
  if (box.left && !waiting)
    return (
      <span className="kept kept-late" role="status">
        <i aria-hidden="true" />
        <span>
          you may not work on this job any more
          <small>{counted(box.left, "entry", "entries")} left for a lead to look at</small>
        </span>
      </span>
    );
  if (!open && !(box.held === "closed" && waiting))
    return <span className="kept">closed, {counted(job.entries, "entry", "entries")}</span>;
  const late = box.held !== "";
  const amiss = late || notTaken > 0;
  const text =
    waiting && late
      ? `${waiting} waiting to be sent`
      : `${counted(job.entries, "entry", "entries")} kept${waiting ? `, ${waiting} on the way` : ""}`;
  return (
    <span className={`kept${amiss ? " kept-late" : ""}`} role="status">
      <i aria-hidden="true" />
      <span>
        {text}
        {photographs > 0 && `, ${counted(photographs, "photograph")} waiting`}
        {refused > 0 && `, ${counted(refused, "photograph")} not taken`}
        {notTaken > 0 && `, ${counted(notTaken, "entry", "entries")} not taken`}
        {here.differs ? (
          <small>{here.differs}</small>
        ) : (
          late && (
            <small>{box.held === "offline" && here.works ? "judged on this device meanwhile" : WHY[box.held]}</small>
          )
        )}
      </span>
      {notTaken > 0 && (
        <Button variant="link" onClick={layAside}>
          Lay {notTaken === 1 ? "it" : "them"} aside
        </Button>
      )}
      {box.unkept && waiting > 0 && (
        <small className="wrong-text">this browser keeps nothing: leave the page open</small>
      )}
      {(box.held === "gone" || box.held === "closed") && waiting > 0 && (
        <Button
          variant="link"
          onClick={() => savedAs({ job: job.id, entries: box.waiting }, `${job.system.name}, typed.json`)}
        >
          Keep what was typed as a file
        </Button>
      )}
      {box.held === "signed-out" && <Link to="/sign-in">Sign in</Link>}
    </span>
  );
}

/** Saves something as a file of JSON. */
function savedAs(what: object, name: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([JSON.stringify(what, null, 2)], { type: "application/json" }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
