import { QuestionStation } from "@/stations/question/station";

export default function Page() {
  return <QuestionStation />;
}
