import { answering } from "@/server/problem";
import { exampleNames } from "@/server/studies";

export const dynamic = "force-dynamic";

export const GET = (): Promise<Response> => answering(async () => exampleNames());
