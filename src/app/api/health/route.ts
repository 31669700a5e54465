import { database } from "@/server/database";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route({
  GET: async () => {
    await (await database()).sequelize.query("SELECT 1");
    return { status: "ok" };
  },
});
