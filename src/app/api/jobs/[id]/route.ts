import { readJob, stopJob } from "@/server/jobs";
import { answering } from "@/server/problem";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string }>;
}

export const GET = (_request: Request, { params }: Context): Promise<Response> =>
  answering(async () => readJob((await params).id));
export const DELETE = (_request: Request, { params }: Context): Promise<Response> =>
  answering(async () => stopJob((await params).id));
