import { bringBackup, listBackups, makeBackup } from "@/server/backups";
import { SQLITE_TYPE } from "@/server/guard";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

/** A backup of what stands, or one that was saved elsewhere, where a file is sent. */
export const { GET, POST, PUT, PATCH, DELETE } = route({
  GET: listBackups,
  async POST(request) {
    const brought = SQLITE_TYPE.test(request.headers.get("content-type") ?? "");
    const called = new URL(request.url).searchParams.get("called") ?? "The file";
    return Response.json(await (brought ? bringBackup(request.body, called.slice(0, 120)) : makeBackup()), {
      status: 201,
    });
  },
});
