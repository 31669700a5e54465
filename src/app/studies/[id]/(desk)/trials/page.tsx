import { TrialsStation } from "@/stations/trials/station";

export default function Page() {
  return <TrialsStation />;
}
