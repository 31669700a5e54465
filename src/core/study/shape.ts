import type * as z from "zod";
import { StudyError } from "./error";

/**
 * Holds data that came from outside against a schema.
 * @throws StudyError `unreadable` where the schema itself fails on it
 */
export function holdAgainst<S extends z.ZodType>(schema: S, data: unknown): z.ZodSafeParseResult<z.output<S>> {
  try {
    return schema.safeParse(data);
  } catch (error) {
    // Checks of length compare what pretends to have one, and fail where that is an object of a certain kind.
    if (!(error instanceof TypeError)) throw error;
    throw new StudyError("unreadable", "Something in it has a “length” and is no text or list; write it as one.");
  }
}
