import { create } from "qrcode";
import { colours } from "../theme/theme";

/** Quiet modules around a code (ISO/IEC 18004). */
const QUIET = 4;

/** An address as a code that a camera reads. */
export function QrCode({ text, name }: { text: string; name: string }) {
  const { modules } = create(text, { errorCorrectionLevel: "M" });
  const size = modules.size + 2 * QUIET;
  const dark = Array.from({ length: modules.size }, (_, y) =>
    Array.from({ length: modules.size }, (_, x) =>
      modules.get(y, x) ? `M${x + QUIET} ${y + QUIET}h1v1h-1z` : "",
    ).join(""),
  ).join("");
  return (
    <svg className="qr" viewBox={`0 0 ${size} ${size}`} role="img" aria-label={name} shapeRendering="crispEdges">
      <rect width={size} height={size} fill={colours.raised} />
      <path d={dark} fill={colours.ink} />
    </svg>
  );
}
