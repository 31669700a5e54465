import { notFound } from "next/navigation";
import { Problem } from "@/server/problem";
import { readStudy, type StoredStudy } from "@/server/studies";

/** The study of a page, or why it cannot be read; a page of its own where there is none. */
export async function findStudy(id: string): Promise<StoredStudy | string> {
  try {
    return await readStudy(id);
  } catch (error) {
    if (error instanceof Problem && error.status === 404) notFound();
    if (error instanceof Problem && error.code === "damaged-study") return error.message;
    throw error;
  }
}
