import { ReportStation } from "@/stations/report/station";

export default function Page() {
  return <ReportStation />;
}
