import { useQuery } from "@tanstack/react-query";

/** A text as a code for a phone's camera; the library that draws it is fetched when it is first shown. */
export function Code({ text }: { text: string }) {
  const drawn = useQuery({
    queryKey: ["code", text],
    queryFn: async () => {
      const { QRCodeWriter, BarcodeFormat, EncodeHintType } = await import("../ui/scan/reader");
      const bits = new QRCodeWriter().encode(text, BarcodeFormat.QR_CODE, 0, 0, new Map([[EncodeHintType.MARGIN, 2]]));
      const dots: string[] = [];
      for (let y = 0; y < bits.getHeight(); y++)
        for (let x = 0; x < bits.getWidth(); x++) if (bits.get(x, y)) dots.push(`M${x} ${y}h1v1h-1z`);
      return { size: bits.getWidth(), path: dots.join("") };
    },
    staleTime: Infinity,
    gcTime: 0,
    networkMode: "always",
  });
  if (!drawn.data) return null;
  return (
    <svg
      className="scan-code"
      viewBox={`0 0 ${drawn.data.size} ${drawn.data.size}`}
      role="img"
      aria-label="A code to scan"
    >
      <rect width="100%" height="100%" fill="white" />
      <path d={drawn.data.path} fill="black" shapeRendering="crispEdges" />
    </svg>
  );
}
