import { SetpointStation } from "@/stations/setpoint/station";

export default function Page() {
  return <SetpointStation />;
}
