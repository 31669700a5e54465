import { HomeStation } from "@/stations/home/station";
import { exampleNames, listStudies } from "@/server/studies";

export const dynamic = "force-dynamic";

export default async function Page() {
  return <HomeStation studies={await listStudies()} examples={exampleNames()} />;
}
