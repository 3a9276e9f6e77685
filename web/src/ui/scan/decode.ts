/** Reads the code in a picture; null where there is none that can be read. */
export type Decode = (picture: HTMLCanvasElement) => Promise<string | null>;

/** What a browser that reads codes by itself has; not every one does. */
interface Detector {
  detect: (picture: HTMLCanvasElement) => Promise<{ rawValue: string }[]>;
}
declare global {
  interface Window {
    BarcodeDetector?: (new () => Detector) & { getSupportedFormats?: () => Promise<string[]> };
  }
}

async function ownDetector() {
  const own = window.BarcodeDetector;
  const formats = own?.getSupportedFormats ? await own.getSupportedFormats().catch(() => []) : [];
  return own && formats.includes("qr_code") ? own : null;
}

/** Where a browser reads no codes by itself, the reader that ships is taken along for when there is no signal. */
export async function readerTakenAlong() {
  if (!(await ownDetector())) await import("./reader").catch(() => undefined);
}

/** The browser's own reader where it has one, else the one that ships with the page; no other host is asked. */
export async function decoder(): Promise<Decode> {
  const own = await ownDetector();
  if (own) {
    const detector = new own();
    return async (picture) => (await detector.detect(picture).catch(() => []))[0]?.rawValue ?? null;
  }
  const codes = await import("./reader");
  const reader = new codes.QRCodeReader();
  const hints = new Map([[codes.DecodeHintType.TRY_HARDER, true]]);
  return (picture) => {
    const light = new codes.HTMLCanvasElementLuminanceSource(picture);
    // What light and dark are is judged over the whole picture, then place by place: each finds what the other does not.
    for (const Judged of [codes.GlobalHistogramBinarizer, codes.HybridBinarizer]) {
      try {
        return Promise.resolve(reader.decode(new codes.BinaryBitmap(new Judged(light)), hints).getText());
      } catch {
        // It says by an error that there is no code in the picture.
      }
    }
    return Promise.resolve(null);
  };
}

/** In which width a picture is looked at, px, and how it is turned, rad: a code may be small in it, or fill it.
 * One of twenty that stand exactly upright is not found by the reader that ships: turned a little it is. */
const LOOKS: { widest: number; turned: number }[] = [
  { widest: 960, turned: 0 },
  { widest: 480, turned: 0.26 },
  { widest: 960, turned: 0.1 },
  { widest: 480, turned: 0 },
  { widest: 1600, turned: 0.785 },
];
/** A code that reaches to the edge of a picture is not found: so much of it is added as a frame. */
const FRAME = 0.08;

/** What a camera shows, no larger than a code needs; in another width and turned otherwise at each look. */
export const shown = (video: HTMLVideoElement, look: number): HTMLCanvasElement | null => {
  const { widest, turned } = LOOKS[look % (LOOKS.length - 1)]!;
  return drawn(video, widest, turned, 0);
};

function drawn(source: HTMLVideoElement | ImageBitmap, widest: number, turned: number, frame: number) {
  const [width, height] =
    source instanceof HTMLVideoElement ? [source.videoWidth, source.videoHeight] : [source.width, source.height];
  if (!width || !height) return null;
  const scale = Math.min(2, widest / Math.max(width, height));
  const [wide, high] = [Math.round(width * scale), Math.round(height * scale)];
  const edge = Math.round(frame * Math.max(wide, high));
  const [across, along] = [Math.cos(turned), Math.sin(turned)];
  const picture = document.createElement("canvas");
  picture.width = Math.round(wide * across + high * along) + 2 * edge;
  picture.height = Math.round(wide * along + high * across) + 2 * edge;
  const pen = picture.getContext("2d", { willReadFrequently: true })!;
  pen.fillStyle = "#fff";
  pen.fillRect(0, 0, picture.width, picture.height);
  pen.translate(picture.width / 2, picture.height / 2);
  pen.rotate(turned);
  pen.drawImage(source, -wide / 2, -high / 2, wide, high);
  return picture;
}

/** The code in a photograph; null where there is none that can be read. */
export async function inPhotograph(file: File, decode: Decode): Promise<string | null> {
  const photograph = await createImageBitmap(file);
  for (const { widest, turned } of LOOKS) {
    const picture = drawn(photograph, widest, turned, FRAME);
    const text = picture && (await decode(picture));
    if (text) return text;
  }
  return null;
}
