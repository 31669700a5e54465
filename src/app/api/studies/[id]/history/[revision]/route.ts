import { pastStudy } from "@/server/history";
import { revisionIn } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ id: string; revision: string }> }>({
  async GET(_request, { params }) {
    const { id, revision } = await params;
    const past = await pastStudy(id, revisionIn(revision));
    return { revision: past.revision, study: past.study };
  },
});
