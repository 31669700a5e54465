import { describe, expect, it } from "vitest";
import { adoptPlan } from "../plans/adopt";
import { makePlan } from "../plans/make-plan";
import { applyEdits } from "../study/edit";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { splitStudy } from "../testing/setups";
import { refusal } from "../testing/studies";
import { ledgerCsv, planCsv } from "./csv";
import { importEdits, previewImport } from "./sheet-import";

const study = splitStudy(1, 2);
const plan = makePlan(study, { family: "factorial", setups: 4 });
const ledger = adoptPlan(study, plan);
const unmarked: Study = { ...ledger, trials: ledger.trials.map(({ setup: _, ...t }) => t) };
const marks = (s: Study): unknown[] => s.trials.map((t) => t.setup);

describe("set-ups in sheets", () => {
  it("go out with a plan and a ledger, and come back into trials that stand unmarked", () => {
    expect(planCsv(study, plan).split(/\r?\n/)[0]).toContain("setup");
    const preview = previewImport(unmarked, ledgerCsv(ledger));
    expect(preview.setups.map((s) => [s.before, s.after])).toEqual(ledger.trials.map((t) => [null, t.setup]));
    expect(preview.changes.filter((c) => c.setup)).toHaveLength(8);
    const taken = parseStudy(applyEdits(unmarked, importEdits(unmarked, preview)));
    expect(marks(taken)).toEqual(marks(ledger));
    // What stands already is no change.
    expect(previewImport(ledger, ledgerCsv(ledger)).setups).toEqual([]);
  });
  it("what is no number, or differs between rows of a trial, is a problem of its row", () => {
    const read = previewImport(unmarked, "order,setup\n1,first\n2,1.5\n3,2\n3,3", { rowsAreRepeats: true });
    expect(read.setups.map((s) => [s.order, s.after])).toEqual([[3, 2]]);
    expect(read.problems.map((p) => p.said.code)).toEqual(["row-no-setup", "row-no-setup", "row-differs"]);
  });
  it("marks that contradict the hard factors, or stand in part, are refused when they are taken", () => {
    const take = (text: string) => () =>
      parseStudy(applyEdits(unmarked, importEdits(unmarked, previewImport(unmarked, text))));
    const orders = unmarked.trials.map((t) => t.order);
    expect(
      refusal(
        take(
          `order,setup\n${orders
            .slice(0, 3)
            .map((o) => `${o},1`)
            .join("\n")}`,
        ),
      ),
    ).toMatch(/has no set-up|is hard to change/);
    expect(refusal(take(`order,setup\n${orders.map((o) => `${o},1`).join("\n")}`))).toMatch(
      /a is hard to change, yet trial/,
    );
  });
  it("a column of that name is left alone where nothing is hard to change", () => {
    const easy = { ...unmarked, factors: unmarked.factors.map((f) => ({ ...f, change: "easy" as const })) };
    const read = previewImport(easy, "order,setup,y\n1,1,5");
    expect(read.setups).toEqual([]);
    expect(read.values).toHaveLength(1);
  });
});
