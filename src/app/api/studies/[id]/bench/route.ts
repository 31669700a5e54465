import { forBench } from "@/core/operator";
import { route } from "@/server/route";
import { readStudy } from "@/server/studies";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ id: string }> }>({
  async GET(_request, { params }) {
    const { id, revision, study } = await readStudy((await params).id);
    return { id, revision, study: forBench(study) };
  },
});
