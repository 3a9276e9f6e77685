import { type RefObject, useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import { FileButton } from "../FileButton";
import { type Code, codeIn } from "./codes";
import { type Decode, decoder, inPhotograph, shown } from "./decode";

interface Props {
  title: string;
  /** What the button says; a short word beside a field. */
  words?: string;
  /** What is done with a code; a sentence where it is none that is meant, and scanning goes on. */
  onCode: (code: Code) => string | void;
}

/** A button that opens the camera, and does what the code before it says. */
export function Scan({ title, words = "Scan", onCode }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button variant="outline-primary" className="scan-button" aria-label={words} onClick={() => setOpen(true)}>
        <svg width="18" height="18" viewBox="0 0 18 18" aria-hidden="true">
          <path d="M1 6V1h5M12 1h5v5M17 12v5h-5M6 17H1v-5M4 9h10" fill="none" stroke="currentColor" strokeWidth="2" />
        </svg>
        <span>{words}</span>
      </Button>
      {open && <Camera title={title} onCode={onCode} onDone={() => setOpen(false)} />}
    </>
  );
}

const EVERY = 180;
const NO_CAMERA = "No camera can be used here. Take a photograph of the code instead, or type what stands beside it.";
const NO_CODE = "There is no code in this photograph that can be read. Come closer, and hold still.";
const NO_PICTURE =
  "The camera gives no picture yet. Take a photograph of the code instead, or type what stands beside it.";
/** How long a camera may take for its first picture before that is said, in ms. */
const PATIENCE = 6_000;

type Reader = RefObject<Promise<Decode> | undefined>;

/** What reads codes; asked for anew where it could not be had before. */
function readerOf(decode: Reader): Promise<Decode> {
  decode.current ??= decoder().catch((error: unknown) => {
    decode.current = undefined;
    throw error;
  });
  return decode.current;
}

const reading = async (decode: Reader, picture: HTMLCanvasElement) => {
  try {
    return await (
      await readerOf(decode)
    )(picture);
  } catch {
    return null;
  }
};

function Camera({ title, onCode, onDone }: Omit<Props, "words"> & { onDone: () => void }) {
  // In state, not in a ref: a dialog lays out what is in it a moment after it is opened.
  const [video, setVideo] = useState<HTMLVideoElement | null>(null);
  const [says, setSays] = useState("");
  const [fault, setFault] = useState("");
  const decode = useRef<Promise<Decode>>(undefined);
  const taken = useRef({ onCode, onDone });
  useEffect(() => {
    taken.current = { onCode, onDone };
  });
  const take = (text: string) => {
    const wrong = taken.current.onCode(codeIn(text));
    if (wrong) setSays(wrong);
    else taken.current.onDone();
    return !wrong;
  };
  useEffect(() => {
    if (!video) return;
    let over = false;
    let stream: MediaStream | undefined;
    let [timer, patience] = [0, 0];
    const look = async (times = 0) => {
      const picture = shown(video, times);
      if (picture) setSays((said) => (said === NO_PICTURE ? "" : said));
      // What cannot be read now (its reader not come yet, a picture that is none) is no end of looking.
      const text = picture && (await reading(decode, picture));
      if (over || (text && take(text))) return;
      timer = window.setTimeout(() => void look(times + 1), decode.current ? EVERY : EVERY * 10);
    };
    const begin = async () => {
      void readerOf(decode).catch(() => undefined);
      try {
        stream = await navigator.mediaDevices.getUserMedia({ video: { facingMode: "environment" } });
      } catch {
        if (!over) setFault(NO_CAMERA);
        return;
      }
      if (over) return stream.getTracks().forEach((one) => one.stop());
      video.srcObject = stream;
      // It may not begin until its first picture: what it shows is looked at all the same.
      video.play().catch(() => !over && setFault(NO_CAMERA));
      patience = window.setTimeout(() => video.videoWidth || setSays(NO_PICTURE), PATIENCE);
      void look();
    };
    void begin();
    return () => {
      over = true;
      clearTimeout(timer);
      clearTimeout(patience);
      stream?.getTracks().forEach((one) => one.stop());
    };
  }, [video]);
  const photograph = async (file: File) => {
    try {
      const text = await inPhotograph(file, await readerOf(decode));
      if (text) take(text);
      else setSays(NO_CODE);
    } catch {
      setSays(NO_CODE);
    }
  };
  return (
    <Modal show onHide={onDone} centered>
      <Modal.Header closeButton>
        <Modal.Title>{title}</Modal.Title>
      </Modal.Header>
      <Modal.Body className="scan">
        {fault ? <p>{fault}</p> : <video ref={setVideo} muted playsInline aria-label="What the camera shows" />}
        <p className="wrong-text" role="status">
          {says}
        </p>
        <FileButton accept="image/*" onFile={(file) => void photograph(file)}>
          From a photograph
        </FileButton>
      </Modal.Body>
    </Modal>
  );
}
