import { PlanStation } from "@/stations/plan/station";

export default function Page() {
  return <PlanStation />;
}
