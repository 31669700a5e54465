import type { ReactNode } from "react";
import { listMarks } from "@/server/history";
import { Damaged } from "@/ui/shell/damaged";
import { Workspace } from "@/ui/shell/workspace";
import { findStudy } from "../find";

interface Props {
  params: Promise<{ id: string }>;
  children: ReactNode;
}

export const dynamic = "force-dynamic";

export default async function StudyLayout({ params, children }: Props) {
  const found = await findStudy((await params).id);
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
