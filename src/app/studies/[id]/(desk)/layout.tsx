import { notFound } from "next/navigation";
import type { ReactNode } from "react";
import { listMarks } from "@/server/history";
import { Problem } from "@/server/problem";
import { readStudy, type StoredStudy } from "@/server/studies";
import { Damaged } from "@/ui/shell/damaged";
import { Workspace } from "@/ui/shell/workspace";

interface Props {
  params: Promise<{ id: string }>;
  children: ReactNode;
}

export const dynamic = "force-dynamic";

/** The study, or why it cannot be read. */
async function find(id: string): Promise<StoredStudy | string> {
  try {
    return await readStudy(id);
  } catch (error) {
    if (error instanceof Problem && error.status === 404) notFound();
    if (error instanceof Problem && error.code === "damaged-study") return error.message;
    throw error;
  }
}

export default async function StudyLayout({ params, children }: Props) {
  const found = await find((await params).id);
  if (typeof found === "string") return <Damaged id={(await params).id} why={found} />;
  const { id, revision, study } = found;
  return (
    <Workspace
      id={id}
      revision={revision}
      title={study.title}
      stored={JSON.stringify(study)}
      marks={await listMarks(id)}
    >
      {children}
    </Workspace>
  );
}
