import { messageText } from "@/core/findings";
import { readWorkbook } from "@/core/formats";
import { prepareBackup } from "../backup-check";

/** What is done in a process of its own, which may die of it alone. */
export const tasks = {
  /** A sheet of a workbook as text, with what is odd about it. */
  async workbook({ bytes }: { bytes: Uint8Array }): Promise<{ text: string; remarks: string[] }> {
    const { text, remarks } = await readWorkbook(bytes);
    return { text, remarks: remarks.map((r) => messageText("workbooks", r)) };
  },
  backup: prepareBackup,
};
export type Tasks = typeof tasks;
export type TaskName = keyof Tasks;

/** What the process is sent. */
export interface Order {
  name: TaskName;
  input: unknown;
}
