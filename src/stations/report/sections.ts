import { DecisionSection } from "./decision-section";
import { FindingsSection } from "./findings-section";
import { HistorySection } from "./history-section";
import { LedgerSection } from "./ledger-section";
import { ModelsSection } from "./models-section";
import { PlanSection } from "./plan-section";
import { QuestionSection } from "./question-section";
import type { ReportSection } from "./section";
import { SetpointSection } from "./setpoint-section";

/** The sections of the report in the order they print. */
export const sections: readonly ReportSection[] = [
  { name: "In short", Body: DecisionSection, late: true },
  { name: "Findings", Body: FindingsSection, late: true },
  { name: "Question", Body: QuestionSection, late: false },
  { name: "Plan", Body: PlanSection, late: false },
  { name: "Models", Body: ModelsSection, late: true },
  { name: "Setpoint", Body: SetpointSection, late: true },
  { name: "Ledger", Body: LedgerSection, late: true },
  { name: "History", Body: HistorySection, late: true, asked: true },
];
