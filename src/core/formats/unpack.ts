import { strToU8, Unzip, UnzipInflate } from "fflate";
import { StudyError } from "../study/error";
import { MOST_SHEET_BYTES, MOST_UNPACKED } from "./limits";

/** Most parts that a workbook is looked through for. */
const MOST_PARTS = 5000;
/** What is unpacked at once: a thousand times as much may come of it. */
const SLICE = 16_384;
const MACROS = "xl/vbaProject.bin";
const NEEDED = /^(\[Content_Types\]\.xml|_rels\/.*|xl\/.*\.(xml|rels))$/;
/** The end of the central directory; a file that was cut short has none. */
const END = strToU8("PK\u0005\u0006", true);

/** What is packed in a workbook, and whether it carries macros. */
export interface Unpacked {
  parts: Record<string, Uint8Array>;
  macros: boolean;
}

/** Whether a file ends as an archive does: its end stands in the last 64 kB, before a remark. */
function isWhole(bytes: Uint8Array): boolean {
  for (let i = bytes.length - END.length; i >= Math.max(0, bytes.length - 65_557); i--)
    if (END.every((b, j) => bytes[i + j] === b)) return true;
  return false;
}

/**
 * Unpacks the parts of a workbook that are needed, counted as they come: what a file says of its own size is not
 * believed.
 * @throws StudyError `no-workbook`, `workbook-locked`, `workbook-too-large`
 */
export function unpackWorkbook(bytes: Uint8Array): Unpacked {
  const tooLarge = (size: number, most: number): StudyError =>
    new StudyError("workbook-too-large", { megabytes: Math.ceil(size / 1e6), most: most / 1e6 });
  if (bytes.length > MOST_SHEET_BYTES.workbook) throw tooLarge(bytes.length, MOST_SHEET_BYTES.workbook);
  // The container of older and of locked workbooks (compound file binary format).
  if (bytes[0] === 0xd0 && bytes[1] === 0xcf) throw new StudyError("workbook-locked", {});
  if (bytes[0] !== 0x50 || bytes[1] !== 0x4b || !isWhole(bytes)) throw new StudyError("no-workbook", {});
  const parts: Record<string, Uint8Array> = Object.create(null);
  let unpacked = 0;
  let count = 0;
  let macros = false;
  const unzip = new Unzip((file) => {
    macros ||= file.name === MACROS;
    if (!NEEDED.test(file.name)) return;
    count++;
    if (count > MOST_PARTS) throw tooLarge(bytes.length, MOST_UNPACKED);
    const pieces: Uint8Array[] = [];
    let size = 0;
    file.ondata = (error, piece, last) => {
      if (error) throw error;
      size += piece.length;
      unpacked += piece.length;
      if (unpacked > MOST_UNPACKED) throw tooLarge(unpacked, MOST_UNPACKED);
      if (piece.length > 0) pieces.push(piece);
      if (!last) return;
      const whole = new Uint8Array(size);
      let at = 0;
      for (const p of pieces) {
        whole.set(p, at);
        at += p.length;
      }
      parts[file.name] = whole;
    };
    file.start();
  });
  unzip.register(UnzipInflate);
  try {
    for (let at = 0; at < bytes.length; at += SLICE)
      unzip.push(bytes.subarray(at, at + SLICE), at + SLICE >= bytes.length);
  } catch (error) {
    throw error instanceof StudyError ? error : new StudyError("no-workbook", {});
  }
  return { parts, macros };
}
