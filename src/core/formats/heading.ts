/** What people write above the numbers of trials. */
const ORDER =
  /^(?:(?:run|trial|test|experiment)s?(?:\s*(?:order|no|nr|number|#)\.?)?|order|no\.?|nr\.?|number|#|(?:lfd|laufende)\.?\s*(?:nr|nummer)\.?|laufnummer)$/i;
export const isOrderHeading = (heading: string): boolean => ORDER.test(heading.trim());

/** What a heading of a sheet says. */
export interface Heading {
  name: string;
  /** In brackets; empty where there is none. */
  unit: string;
  /** Which repeat it is, counted from 1; 0 where it says none. */
  repeat: number;
}

/** A heading's name, unit in brackets and number of the repeat: "Height 2 (mm)" is the second Height in mm. */
export function readHeading(heading: string): Heading {
  const unit = /[([]\s*([^()[\]]*[^()[\]\d\s][^()[\]]*)\s*[)\]]/.exec(heading);
  const bare = (unit ? heading.replace(unit[0], " ") : heading).replace(/\s+/g, " ").trim();
  const repeat = /^(.*?\p{L}.*?)(?:[\s._-]+(?:#|no\.?|nr\.?)?\s*(\d{1,4})|\s*#\s*(\d{1,4})|\s*\((\d{1,4})\))$/u.exec(
    bare,
  );
  return {
    name: (repeat ? repeat[1] : bare).trim(),
    unit: unit?.[1].trim() ?? "",
    repeat: repeat ? Number(repeat[2] ?? repeat[3] ?? repeat[4]) : 0,
  };
}

/**
 * Numbers of columns that are repeats of one thing: those that their headings say, where all say one and none twice;
 * else as they stand from left to right.
 */
export const repeatNumbers = (said: readonly number[]): number[] =>
  said.every((n) => n > 0) && new Set(said).size === said.length ? [...said] : said.map((_, i) => i + 1);
