import { Problem } from "../problem";

/** The problem with which some work is refused; what is not refused, or fails otherwise, fails the test. */
export async function refused(work: Promise<unknown>): Promise<Problem> {
  try {
    await work;
  } catch (error) {
    if (error instanceof Problem) return error;
    throw error;
  }
  throw new Error("It was not refused.");
}
