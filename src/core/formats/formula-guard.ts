/** Signs that begin a formula in a spreadsheet, also in their full width. */
const SIGNS = "=+\\-@\uFF1D\uFF0B\uFF0D\uFF20";
/** What parts cells where a sheet is opened with another separator than it was written with. */
const BREAKS = ";\\t,|\\n\\r";
/** White space that parts no cells. */
const GAP = "[^\\S\\t\\n\\r]*";
/** Alone in its cell it is a number, and runs as nothing. */
const NUMBER = `[+\\-]?(?:\\d+\\.?\\d*|\\.\\d+)(?:[eE][+\\-]?\\d+)?${GAP}(?:[${BREAKS}]|$)`;
const FORMULA = new RegExp(`(^|[${BREAKS}])(${GAP})(?!${GAP}${NUMBER})(?='*${GAP}[${SIGNS}])`, "g");
const GUARDED = new RegExp(`(^|[${BREAKS}])(${GAP})'(?='*${GAP}[${SIGNS}])`, "g");

/**
 * Text of a cell that no spreadsheet runs as a formula, whatever separator it is opened with: an apostrophe stands
 * before what would, one more where there are some already.
 */
export const guarded = (text: string): string => text.replace(FORMULA, "$1$2'");

/** The text as it was before it was guarded. */
export const unguarded = (text: string): string => text.replace(GUARDED, "$1$2");
