import { answerSchema, takeResults } from "@/server/lending";
import { keyOf, printedOr } from "@/server/problem";
import { route } from "@/server/route";
import { whoOf } from "@/server/who";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string; lease: string }>;
}

export const { GET, POST, PUT, PATCH, DELETE } = route<Context>({
  async POST(request, { params }) {
    const { id, lease } = await params;
    const sent = await printedOr(request, answerSchema);
    return takeResults(id, lease, sent, (holder) => whoOf(request, holder), keyOf(request));
  },
});
