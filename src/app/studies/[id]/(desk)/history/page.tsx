import { HistoryStation } from "@/stations/history/station";

export default function Page() {
  return <HistoryStation />;
}
