import { useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import { moment } from "../ui/words";
import { fileOf, useAttachments } from "./attachments";

const MOST = 6;

/** A photograph, large, in the drawing's place: it is read while the field below it is typed. */
export function Viewer({ zone }: { zone: string }) {
  const attachments = useAttachments();
  const [zoom, setZoom] = useState(1);
  const frame = useRef<HTMLDivElement>(null);
  const paper = attachments?.shown;
  useEffect(() => setZoom(1), [paper?.id]);
  if (!attachments || !paper) return null;
  const turn = (by: number) => {
    const next = Math.min(MOST, Math.max(1, zoom * by));
    const box = frame.current;
    const middle = box && {
      x: (box.scrollLeft + box.clientWidth / 2) / zoom,
      y: (box.scrollTop + box.clientHeight / 2) / zoom,
    };
    setZoom(next);
    requestAnimationFrame(() => {
      if (box && middle) box.scrollTo(middle.x * next - box.clientWidth / 2, middle.y * next - box.clientHeight / 2);
    });
  };
  return (
    <section className="viewer" aria-label={`Photograph of ${paper.belongs_to}`}>
      <div className="viewer-frame" ref={frame} tabIndex={0} aria-label="The photograph; scroll to move it">
        <img src={fileOf(paper)} alt={`${paper.name}, of ${paper.belongs_to}`} style={{ width: `${zoom * 100}%` }} />
      </div>
      <footer>
        <span>
          <b>{paper.belongs_to}</b> · {paper.name} · {paper.who}, {moment(paper.at, zone)}
        </span>
        <Button variant="link" onMouseDown={keepFocus} onClick={() => turn(1.5)} disabled={zoom >= MOST}>
          Larger
        </Button>
        <Button variant="link" onMouseDown={keepFocus} onClick={() => turn(1 / 1.5)} disabled={zoom <= 1}>
          Smaller
        </Button>
        <Button variant="link" onMouseDown={keepFocus} onClick={() => attachments.show(null)}>
          Put away
        </Button>
      </footer>
    </section>
  );
}

const keepFocus = (event: React.MouseEvent) => event.preventDefault();
