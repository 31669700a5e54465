import { StudyError } from "../study/error";

/**
 * Generators of regular two-level fractions by "factors,runs": what the factors after the basic ones equal, in the
 * letters A, B, … without I of the basic factors. Made by `scripts/search-fractions.ts`. Up to 64 runs the
 * word-length patterns are the minimum aberration ones of Chen, Sun & Wu (1993); for 128 and 256 runs they are the
 * best found (compare Block & Mee 2005 and Xu 2009).
 */
const GENERATORS: Readonly<Record<string, string>> = {
  "3,4": "AB",
  "4,8": "ABC",
  "5,8": "AB AC",
  "6,8": "AB AC BC",
  "7,8": "AB AC BC ABC",
  "5,16": "ABCD",
  "6,16": "ABC BCD",
  "7,16": "ABC BCD ACD",
  "8,16": "BCD ACD ABC ABD",
  "9,16": "ABC BCD ACD ABD ABCD",
  "10,16": "ABC BCD ACD ABD ABCD AB",
  "11,16": "ABC BCD ACD ABD ABCD AB AC",
  "12,16": "ABC BCD ACD ABD ABCD AB AC AD",
  "13,16": "ABC BCD ACD ABD ABCD AB AC AD BC",
  "14,16": "ABC BCD ACD ABD ABCD AB AC AD BC BD",
  "15,16": "ABC BCD ACD ABD ABCD AB AC AD BC BD CD",
  "6,32": "ABCDE",
  "7,32": "ABCD ABDE",
  "8,32": "ABC ABD BCDE",
  "9,32": "BCDE ACDE ABDE ABCE",
  "10,32": "ABCD ABCE ABDE ACDE BCDE",
  "11,32": "ABC BCD CDE ACD ADE BDE",
  "12,32": "ABC ABD ACD ABE BCE ADE CDE",
  "13,32": "ABCDE ABC ABD ACD BCD BCE BDE CDE",
  "14,32": "ABCDE ABD ACD ABE ACE BCE ADE BDE CDE",
  "15,32": "ABCDE ABC ABD ACD BCD ABE ACE BCE BDE CDE",
  "7,64": "ABCDEF",
  "8,64": "ABCD ABEF",
  "9,64": "ABCD ACEF CDEF",
  "10,64": "BCDF ACDF ABDE ABCE",
  "11,64": "CDE ABCD ABF BDEF ADEF",
  "12,64": "ABCEF ABDEF BCDEF ABCD ACDE ACDF",
  "13,64": "ABCDF ACEF ADEF CDEF BCF BDF BEF",
  "14,64": "ACDEF BCDEF ABCE ABCF BCD CDF AEF CEF",
  "15,64": "ABCDF ABCEF ABDE ACDE BDEF BCD BCE ACF BCF",
  "8,128": "ABCDEFG",
  "9,128": "ACDFG BCEFG",
  "10,128": "BCDFG ADEFG ACEF",
  "11,128": "ABCFG ADEFG ABCE ACDG",
  "12,128": "ABCDE ACEFG BDEG CDFG ABF",
  "13,128": "ABCEF ADEFG CDEF ACDG ABFG BEG",
  "14,128": "ABCDFG ACDEF ABCEG ABEFG CDEFG ADEG BDE",
  "15,128": "ACDEF BCDEG ABEFG ABDF ABCG BCF ADG CEG",
  "9,256": "ABCDEFGH",
  "10,256": "ABCDFG CEFGH",
  "11,256": "ACEFG BDEFG BCDFH",
  "12,256": "ABDFG BCDFH ABEGH CEFGH",
  "13,256": "ACDEGH ABCFGH ABCDE BCDFG CEFH",
  "14,256": "ABCGH BDEGH CDFGH ADEF ACFG BEFG",
  "15,256": "ACDEFG ABDEFH ABCDG BCEFH BDFGH CDEH ACGH",
};

const LETTERS = "ABCDEFGHJKLMNOPQ";

/**
 * Masks over the basic factors that the generated factors equal, in factor order.
 * @throws StudyError when the catalogue has no such fraction
 */
export function catalogueWords(factors: number, runs: number): number[] {
  const text = GENERATORS[`${factors},${runs}`];
  if (text === undefined) throw new StudyError("bad-count.no-fraction", { factors, runs }, ["trials"]);
  return text.split(" ").map((word) => [...word].reduce((mask, letter) => mask | (1 << LETTERS.indexOf(letter)), 0));
}
