import { notFound } from "next/navigation";
import { Problem } from "@/server/problem";
import { readStudy, type StoredStudy } from "@/server/studies";
import { BenchPage } from "@/stations/bench/page";
import { Damaged } from "@/ui/shell/damaged";

export const dynamic = "force-dynamic";

interface Props {
  params: Promise<{ id: string }>;
}

async function find(id: string): Promise<StoredStudy | string> {
  try {
    return await readStudy(id);
  } catch (error) {
    if (error instanceof Problem && error.status === 404) notFound();
    if (error instanceof Problem && error.code === "damaged-study") return error.message;
    throw error;
  }
}

/** One trial at a time, beside the machine. */
export default async function Page({ params }: Props) {
  const { id } = await params;
  const found = await find(id);
  if (typeof found === "string") return <Damaged id={id} why={found} />;
  return <BenchPage id={id} revision={found.revision} stored={JSON.stringify(found.study)} />;
}
