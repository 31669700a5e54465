import { database } from "@/server/database";
import { answering } from "@/server/problem";

export const dynamic = "force-dynamic";

export const GET = (): Promise<Response> =>
  answering(async () => {
    await (await database()).sequelize.query("SELECT 1");
    return { status: "ok" };
  });
