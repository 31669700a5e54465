import { ModelStation } from "@/stations/model/station";

export default function Page() {
  return <ModelStation />;
}
