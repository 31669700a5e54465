import { notFound } from "next/navigation";
import type { ReactNode } from "react";
import { Problem } from "@/server/problem";
import { readStudy, type StoredStudy } from "@/server/studies";
import { Workspace } from "@/ui/shell/workspace";

interface Props {
  params: Promise<{ id: string }>;
  children: ReactNode;
}

export const dynamic = "force-dynamic";

async function find(id: string): Promise<StoredStudy> {
  try {
    return await readStudy(id);
  } catch (error) {
    if (error instanceof Problem && error.status === 404) notFound();
    throw error;
  }
}

export default async function StudyLayout({ params, children }: Props) {
  const { id, revision, study } = await find((await params).id);
  return (
    <Workspace id={id} revision={revision} title={study.title} stored={JSON.stringify(study)}>
      {children}
    </Workspace>
  );
}
