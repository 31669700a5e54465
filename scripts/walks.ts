// Whole jobs done in the browser from a blank study, against a running server: npx tsx scripts/walks.ts [number …].
// Counts presses of pointer and keys and fields filled, and writes docs/walks.md when all were walked.
import { writeFileSync } from "node:fs";
import { chromium, type Page } from "@playwright/test";

const base = process.env.TRIALMOOR ?? "http://127.0.0.1:4270";
type Settings = Record<string, number | string>;
interface Stored {
  study: {
    factors: { id: string; name: string }[];
    trials: { order: number; wave: string; state: string; settings: Settings }[];
    waves: { id: string; name: string }[];
  };
}

/** A person at the screen. */
class Walker {
  presses = 0;
  fields = 0;
  constructor(readonly page: Page) {}

  get id(): string {
    return /studies\/([^/#]+)/.exec(this.page.url())?.[1] ?? "";
  }
  async study(): Promise<Stored["study"]> {
    await this.page.locator('[data-saved="yes"]').waitFor();
    return ((await (await this.page.request.get(`${base}/api/studies/${this.id}`)).json()) as Stored).study;
  }
  async press(name: string | RegExp, within = this.page.locator("body")): Promise<void> {
    await within.getByRole("button", { name }).first().click();
  }
  async fill(label: string | RegExp, text: string): Promise<void> {
    const field = this.page.getByLabel(label).last();
    await field.fill(text);
    await field.press("Enter");
    this.fields++;
  }
  /** Picks one of a list by what stands for it. */
  async pick(label: string, value: string): Promise<void> {
    const list = this.page.getByRole("combobox", { name: label, exact: true }).last();
    await list.focus();
    await list.press("ArrowDown");
    await this.page.locator(`.ant-select-dropdown:visible [data-choice="${value}"]`).click();
  }
  async paste(label: string, text: string): Promise<void> {
    this.fields++;
    await this.page.getByLabel(label).evaluate((el, body) => {
      const data = new DataTransfer();
      data.setData("text", body);
      el.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
    }, text);
  }
  /** A question of rows as they would be copied from a spreadsheet. */
  async ask(title: string, responses: string[], factors: string[]): Promise<void> {
    await this.page.goto(base);
    await this.page.locator('[data-ready="yes"]').waitFor();
    await this.page.getByLabel("Name of the new study").fill(title);
    this.fields++;
    await this.press("Start blank");
    await this.page.waitForURL(/question$/);
    await this.page.locator('[data-ready="yes"]').waitFor();
    await this.paste("New response name", responses.join("\n"));
    await this.paste("New factor name", factors.join("\n"));
    await this.page.getByLabel(`Factor ${factors.length} name`).waitFor();
  }
  async go(station: string): Promise<void> {
    await this.page.getByRole("link", { name: new RegExp(`^${station}`) }).click();
    await this.page.waitForURL(new RegExp(`${station.toLowerCase()}$`));
    if (station === "Plan") await this.page.locator('[data-searching="no"]').waitFor({ timeout: 60_000 });
  }
  /** What a plan must tell. */
  async tell(what: "main effects" | "+ interactions" | "+ curvature"): Promise<void> {
    await this.page.getByText(what, { exact: true }).click();
    await this.page.waitForTimeout(300);
    await this.page.locator('[data-searching="no"]').waitFor({ timeout: 60_000 });
  }
  /** A plan of one's own, put into the chart and adopted. */
  async own(family: string, options: Record<string, string>, adopt = true): Promise<void> {
    await this.press("Own plan");
    await this.pick("Plan family", family);
    for (const [label, value] of Object.entries(options))
      if (label.startsWith("pick ")) await this.pick(label.slice(5), value);
      else {
        await this.page.getByRole("tooltip").getByLabel(label, { exact: true }).fill(value);
        this.fields++;
      }
    await this.press("Put it in the chart");
    await this.page.locator(`[data-adopt^="own ${family}"]`).first().waitFor({ timeout: 30_000 });
    await this.page.keyboard.press("Escape");
    if (adopt) await this.adopt(`[data-adopt^="own ${family}"]`);
  }
  async adopt(selector: string): Promise<void> {
    await this.page.locator(selector).first().click();
    await this.page.waitForURL(/trials$/);
  }
  /** Results of trials that wait, copied from elsewhere by their numbers. */
  async results(of: (s: Settings, i: number) => Record<string, number | number[]>): Promise<void> {
    const { trials } = await this.study();
    const open = trials.filter((t) => t.state === "planned").sort((a, b) => a.order - b.order);
    const given = open.map((t, i) => of(t.settings, i));
    const heads = Object.entries(given[0]).flatMap(([name, v]) =>
      Array.isArray(v) ? v.map((_, k) => `${name}.${k + 1}`) : [name],
    );
    const rows = open.map((t, i) => [t.order, ...Object.values(given[i]).flat()].join("\t"));
    await this.press(/Paste or import/);
    await this.page.getByLabel("Text to import").fill([["order", ...heads].join("\t"), ...rows].join("\n"));
    this.fields++;
    await this.press(/^Take \d+ values?$/, this.page.getByRole("dialog"));
    await this.page.getByRole("dialog").waitFor({ state: "hidden" });
  }
  async tab(name: string): Promise<void> {
    await this.page.getByRole("tab", { name, exact: true }).click();
    await this.page.waitForTimeout(500);
  }
  async reduceAll(): Promise<void> {
    await this.press("Reduce");
    await this.page.getByRole("tooltip").getByRole("button", { name: "Reduce", exact: true }).waitFor();
    const several = this.page.getByRole("button", { name: "Reduce all responses" });
    if ((await several.count()) > 0) await several.click();
    else await this.page.getByRole("tooltip").getByRole("button", { name: "Reduce", exact: true }).click();
    await this.page.waitForTimeout(400);
  }
  /** The model on screen, where it is only offered yet. */
  async accept(): Promise<void> {
    const button = this.page.getByRole("button", { name: "Accept this model" });
    if ((await button.count()) > 0) await button.click();
  }
  /** A next wave of a kind, whether the study needs it now or not. */
  async follow(kind: string, limits: Record<string, string> = {}): Promise<void> {
    await this.page.getByTestId("next-wave").waitFor({ timeout: 30_000 });
    const row = this.page.locator(`[data-follow="${kind}"]`).first();
    if ((await row.count()) === 0) await this.press(/more kinds?$/);
    // A path that leaves the ranges asks how far the machine goes.
    for (const [ask, most] of Object.entries(limits)) await this.fill(ask, most);
    await row.getByRole("button", { name: "Adopt" }).click();
    await this.page.waitForURL(/trials$/);
  }
  async settle(): Promise<string> {
    if (/model$/.test(this.page.url())) await this.accept();
    await this.go("Setpoint");
    await this.page.getByTestId("candidates").waitFor({ timeout: 60_000 });
    await this.page.getByRole("button", { name: "Choose", exact: true }).first().click();
    const overall = await this.page.getByText(/^desirability here/).textContent();
    return `chosen, ${overall?.replace(/\s+/g, " ").trim()}`;
  }
  async said(selector: string, most = 110): Promise<string> {
    const text = (await this.page.locator(selector).first().innerText()).replace(/\s+/g, " ").trim();
    return text.length > most ? `${text.slice(0, most)}…` : text;
  }
}

const num = (s: Settings, id: string): number => s[id] as number;
/** A little noise that is the same at every walk. */
const noise = (i: number): number => Math.sin(12.9898 * (i + 1)) * 0.5;

interface Job {
  job: string;
  walk(w: Walker): Promise<string>;
}

const jobs: Job[] = [
  {
    job: "Least aliasing in 12 trials, compared in numbers",
    async walk(w) {
      await w.ask(
        "Six settings, twelve trials",
        ["Yield\t%\traise\t70 to 90\t1\t3"],
        "ABCDEF".split("").map((l) => `Setting ${l}\t\t0\t10`),
      );
      await w.go("Plan");
      await w.tell("main effects");
      await w.own("least-aliasing", { "base trials": "12" }, false);
      await w.press(/Aliasing$/);
      await w.page
        .getByRole("region", { name: /Alias coefficients of plan/ })
        .first()
        .waitFor();
      const text = await w.said('[data-testid="alias-summary"], #row-alias');
      await w.adopt('[data-adopt^="own least-aliasing"]');
      return `adopted; ${text}`;
    },
  },
  {
    job: "Face-centred in two blocks, the block left out of the model",
    async walk(w) {
      await w.ask(
        "Faces in two blocks",
        ["Purity\t%\traise\t80 to 95\t0.5\t1"],
        ["Heat\t°C\t50\t70", "Dose\tg\t1\t3", "Time\tmin\t10\t30"],
      );
      await w.go("Plan");
      await w.tell("+ curvature");
      await w.fill("centre points", "6");
      await w.own("composite", { "pick axial points": "face", blocks: "2" });
      await w.results((s, i) => ({
        Purity: 88 + (num(s, "heat") - 60) * 0.2 - (num(s, "dose") - 2) ** 2 * 2 + noise(i),
      }));
      await w.go("Model");
      const waves = w.page.getByRole("switch", { name: /^Waves/ });
      await waves.click();
      return `waves left out; ${await w.said('[data-testid="summary"]')}`;
    },
  },
  {
    job: "A 2 × 2 run three times, worked by hand",
    async walk(w) {
      await w.ask("Two by two", ["Strength\tMPa\traise\t20 to 40\t1\t3"], ["Heat\t°C\t150\t170", "Time\tmin\t10\t20"]);
      await w.go("Plan");
      await w.fill("centre points", "0");
      await w.fill("replicates", "3");
      await w.own("factorial", {});
      await w.results((s, i) => ({
        Strength: 28 + (num(s, "heat") - 160) * 0.3 + (num(s, "time") - 15) * 0.2 + noise(i),
      }));
      await w.go("Model");
      await w.tab("Working");
      return w.said("text=/Pooled variance/");
    },
  },
  {
    job: "A composite at its own axial distance, 90 % confidence",
    async walk(w) {
      await w.ask("Own distance", ["Gloss\tGU\traise\t60 to 85\t1\t2"], ["Heat\t°C\t50\t70", "Dose\tg\t1\t3"]);
      await w.fill("Confidence of the study", "90 %");
      await w.go("Plan");
      await w.own("composite", { "pick axial points": "other", "Axial distance": "1.3" });
      await w.results((s, i) => ({ Gloss: 75 - ((num(s, "heat") - 62) / 8) ** 2 * 4 + num(s, "dose") + noise(i) }));
      await w.go("Model");
      await w.tab("Surface");
      return w.said('[role="tabpanel"]');
    },
  },
  {
    job: "Trials built to part named pairs, models averaged, the tightest factor named",
    async walk(w) {
      await w.ask(
        "Parting pairs",
        ["Yield\t%\traise\t60 to 90\t0.5\t1.5"],
        "ABCDEF".split("").map((l) => `Setting ${l}\t\t0\t10`),
      );
      await w.go("Plan");
      await w.adopt('[data-adopt="fraction-16-1-3"]').catch(async () => {
        await w.page.locator('[data-plan="fraction-16-1-3"]').click();
        await w.adopt('[data-adopt="fraction-16-1-3"]');
      });
      const f = (s: Settings, i: number) => {
        const v = Object.values(s).map((x) => ((x as number) - 5) / 5);
        return { Yield: 70 + 5 * v[0] + 4 * v[1] + 3 * v[0] * v[1] + noise(i) };
      };
      await w.results(f);
      await w.go("Model");
      await w.reduceAll();
      await w.go("Plan");
      await w.follow("augment");
      await w.results(f);
      await w.go("Model");
      await w.reduceAll();
      await w.tab("Rivals");
      await w.page.getByTestId("rivals").waitFor({ timeout: 30_000 });
      const end = await w.settle();
      return `${end}; ${await w.said('[aria-label="Readings"] article:has-text("tightest") p')}`;
    },
  },
  {
    job: "Mean and spread, to a target",
    async walk(w) {
      await w.ask(
        "Mean and spread",
        ["Fill\tg\thit\t98 to 102 aim 100\t0.5\t1"],
        ["Speed\trpm\t50\t90", "Heat\t°C\t20\t40", "Gap\tmm\t1\t3"],
      );
      await w.go("Plan");
      await w.fill("centre points", "0");
      await w.own("factorial", {});
      await w.results((s, i) => {
        const mean = 100 + (num(s, "gap") - 2) * 1.5;
        const sd = 0.3 * Math.exp((num(s, "speed") - 70) / 20);
        return { Fill: [0, 1, 2, 3].map((k) => Number((mean + sd * Math.sin(7 * (4 * i + k) + 1)).toFixed(3))) };
      });
      await w.go("Model");
      await w.press("Accept this model");
      await w.press("Model its spread");
      await w.page.waitForTimeout(500);
      await w.press("Accept this model");
      await w.go("Question");
      await w.pick("Spread of fill aim", "lower");
      await w.fill("Spread of fill limits", "0.6 to 0.2");
      return w.settle();
    },
  },
  {
    job: "Three categories, two responses of unequal weight",
    async walk(w) {
      await w.ask(
        "Three categories",
        ["Shine\t\traise\t50 to 80\t1\t3", "Cost\tp\tlower\t20 to 8\t0.3\t1"],
        ["Resin\t\tred / blue / grey", "Cure\t\tair / oven", "Line\t\teast / west"],
      );
      await w.go("Plan");
      await w.fill("centre points", "0");
      await w.own("factorial", {});
      await w.results((s, i) => ({
        Shine: 60 + (s.resin === "blue" ? 10 : s.resin === "grey" ? -4 : 0) + (s.cure === "oven" ? 6 : 0) + noise(i),
        Cost: 12 + (s.resin === "blue" ? 3 : 0) + (s.cure === "oven" ? 2 : 0) + noise(i + 50) * 0.3,
      }));
      await w.go("Model");
      await w.reduceAll();
      await w.go("Question");
      await w.fill("Shine: importance", "75 %");
      return w.settle();
    },
  },
  {
    job: "A cube run twice, its power at four levels",
    async walk(w) {
      await w.ask(
        "Cube twice",
        ["Yield\t%\traise\t60 to 90\t1\t2"],
        ["Heat\t°C\t50\t70", "Dose\tg\t1\t3", "Time\tmin\t10\t30"],
      );
      await w.go("Plan");
      await w.fill("centre points", "0");
      await w.fill("replicates", "2");
      await w.own("factorial", {}, false);
      await w.press(/Power$/);
      const table = w.page.getByRole("table", { name: "Power of the plans picked" });
      await table.waitFor();
      await w.fill("Changes of the power table", "1; 1.5; 2; 3");
      const text = (await table.innerText()).replace(/\s+/g, " ").slice(0, 140);
      await w.adopt('[data-adopt^="own factorial"]');
      return text;
    },
  },
  {
    job: "The full factorial or its half, by their risks",
    async walk(w) {
      await w.ask(
        "Whole or half",
        ["Yield\t%\traise\t60 to 90\t1\t2"],
        "ABCDE".split("").map((l) => `Setting ${l}\t\t0\t10`),
      );
      await w.go("Plan");
      await w.own("fraction", { generators: "E=ABCD" }, false);
      await w.own("factorial", {}, false);
      const risks = (await w.page.locator("#row-risks").locator("xpath=following-sibling::*[1]").innerText()).replace(
        /\s+/g,
        " ",
      );
      await w.adopt('[data-adopt^="own fraction"]');
      return `half adopted; ${risks.slice(0, 110)}…`;
    },
  },
  {
    job: "Terms taken in and out by hand",
    async walk(w) {
      await w.ask(
        "By hand",
        ["Yield\t%\traise\t60 to 90\t0.5\t2"],
        ["Heat\t°C\t50\t70", "Dose\tg\t1\t3", "Time\tmin\t10\t30"],
      );
      await w.go("Plan");
      await w.own("factorial", {});
      await w.results((s, i) => ({
        Yield:
          75 +
          (num(s, "heat") - 60) * 0.4 +
          (num(s, "dose") - 2) * 2 +
          (num(s, "heat") - 60) * (num(s, "dose") - 2) * 0.3 +
          noise(i),
      }));
      await w.go("Model");
      const ladder = w.page.getByTestId("ladder");
      await ladder.focus();
      for (let i = 0; i < 4; i++) await ladder.press("ArrowDown");
      await ladder.press("Space");
      await w.press("Add a term…");
      await w.page.getByRole("combobox", { name: "Term to add" }).fill("abc");
      await w.page.keyboard.press("ArrowDown");
      await w.page.keyboard.press("Enter");
      await w.page.waitForTimeout(300);
      return w.said('[data-testid="summary"]');
    },
  },
  {
    job: "A half fraction and its missing half",
    async walk(w) {
      await w.ask(
        "Half, then half",
        ["Yield\t%\traise\t60 to 90\t0.5\t2"],
        "ABCD".split("").map((l) => `Setting ${l}\t\t0\t10`),
      );
      await w.go("Plan");
      await w.own("fraction", { generators: "D=ABC" });
      const f = (s: Settings, i: number) => {
        const v = Object.values(s).map((x) => ((x as number) - 5) / 5);
        return { Yield: 75 + 6 * v[0] + 4 * v[1] + 3 * v[0] * v[2] + noise(i) };
      };
      await w.results(f);
      await w.go("Model");
      await w.reduceAll();
      await w.go("Plan");
      await w.follow("missing-fraction");
      await w.results(f);
      await w.go("Model");
      await w.reduceAll();
      return w.said('[data-testid="summary"]');
    },
  },
  {
    job: "Box–Behnken, to a setpoint",
    async walk(w) {
      await w.ask(
        "Edges",
        ["Loss\t%\tlower\t8 to 2\t0.2\t0.5"],
        ["Heat\t°C\t50\t70", "Dose\tg\t1\t3", "Time\tmin\t10\t30"],
      );
      await w.go("Plan");
      await w.tell("+ curvature");
      await w.own("box-behnken", {});
      await w.results((s, i) => ({
        Loss: 3 + ((num(s, "heat") - 62) / 10) ** 2 * 2 + (num(s, "dose") - 2.2) ** 2 * 1.5 + noise(i) * 0.3,
      }));
      await w.go("Model");
      await w.reduceAll();
      return w.settle();
    },
  },
  {
    job: "Factorial, path, axial points in turn",
    async walk(w) {
      await w.ask("Uphill", ["Yield\t%\traise\t60 to 95\t0.5\t2"], ["Heat\t°C\t50\t60", "Dose\tg\t1\t2"]);
      const f = (s: Settings, i: number) => ({
        Yield: 92 - ((num(s, "heat") - 70) / 10) ** 2 * 6 - (num(s, "dose") - 3) ** 2 * 5 + noise(i) * 0.4,
      });
      await w.go("Plan");
      await w.own("factorial", {});
      await w.results(f);
      await w.go("Model");
      await w.press("Accept this model");
      await w.go("Plan");
      await w.follow("ascent", { "Heat can be set to at most": "90", "Dose can be set to at most": "5" });
      await w.results(f);
      await w.go("Plan");
      await w.follow("axial");
      await w.results(f);
      await w.go("Model");
      return w.said('[data-testid="summary"]');
    },
  },
  {
    job: "Two sites, pasted in standard order",
    async walk(w) {
      await w.ask(
        "Two sites",
        ["Height\tmm\twithin\t4 to 6\t0.1\t0.3"],
        ["Heat\t°C\t150\t170", "Time\tmin\t10\t20", "Site\t\tnorth / south"],
      );
      await w.go("Plan");
      await w.fill("centre points", "0");
      await w.page.getByLabel("randomise").uncheck();
      await w.own("factorial", {});
      await w.results((s, i) => ({
        Height: Number(
          (5 + (num(s, "heat") - 160) * 0.03 + (s.site === "south" ? 0.4 : 0) + noise(i) * 0.1).toFixed(2),
        ),
      }));
      await w.go("Model");
      await w.reduceAll();
      return w.said('[data-testid="summary"]');
    },
  },
  {
    job: "A composite with a category",
    async walk(w) {
      await w.ask(
        "With a lot",
        ["Yield\t%\traise\t60 to 90\t0.5\t2"],
        ["Heat\t°C\t50\t70", "Dose\tg\t1\t3", "Lot\t\thill / lowland"],
      );
      await w.go("Plan");
      await w.tell("+ curvature");
      await w.own("composite", {});
      await w.results((s, i) => ({
        Yield:
          80 - ((num(s, "heat") - 63) / 8) ** 2 * 4 + (num(s, "dose") - 2) * 2 + (s.lot === "hill" ? 3 : 0) + noise(i),
      }));
      await w.go("Model");
      await w.reduceAll();
      return w.settle();
    },
  },
  {
    job: "Eight factors screened, the active ones carried on in a plan of a chosen family",
    async walk(w) {
      await w.ask(
        "Screen and carry",
        ["Yield\t%\traise\t60 to 95\t0.5\t2"],
        "ABCDEFGH".split("").map((l) => `Setting ${l}\t\t0\t10`),
      );
      const f = (s: Settings, i: number) => {
        const v = Object.values(s).map((x) => ((x as number) - 5) / 5);
        return { Yield: 75 + 6 * v[1] + 5 * v[4] - 4 * v[6] - 3 * v[1] * v[4] + noise(i) };
      };
      await w.go("Plan");
      await w.tell("main effects");
      await w.own("plackett-burman", { "pick base trials": "12" });
      await w.results(f);
      await w.go("Model");
      await w.reduceAll();
      await w.go("Plan");
      const row = w.page.locator('[data-follow="carry"]');
      await row.waitFor({ timeout: 30_000 });
      await w.pick("Carried on in", "box-behnken");
      await w.page.waitForTimeout(1500);
      await row.getByRole("button", { name: "Adopt" }).click();
      await w.page.waitForURL(/trials$/);
      await w.results(f);
      await w.go("Model");
      return w.said('[data-testid="summary"]');
    },
  },
  {
    job: "A corner that cannot be run, a target range",
    async walk(w) {
      await w.ask(
        "A corner out",
        ["Moisture\t%\twithin\t4 to 6 aim 5\t0.1\t0.4"],
        ["Heat\t°C\t50\t70", "Dose\tg\t1\t3"],
      );
      await w.fill("Add to the region", "Heat + 5 × Dose ≤ 80");
      await w.go("Plan");
      await w.tell("+ curvature");
      await w.own("optimal", { "base trials": "10" });
      await w.results((s, i) => ({
        Moisture: Number((6 - (num(s, "heat") - 50) * 0.08 + (num(s, "dose") - 1) * 0.3 + noise(i) * 0.1).toFixed(2)),
      }));
      await w.go("Model");
      await w.reduceAll();
      return w.settle();
    },
  },
  {
    job: "A planted outlier found among the residuals",
    async walk(w) {
      await w.ask(
        "One went wrong",
        ["Yield\t%\traise\t60 to 90\t0.5\t2"],
        ["Heat\t°C\t50\t70", "Dose\tg\t1\t3", "Time\tmin\t10\t30"],
      );
      await w.go("Plan");
      await w.fill("centre points", "0");
      await w.fill("replicates", "2");
      await w.own("factorial", {});
      await w.results((s, i) => ({
        Yield: 75 + (num(s, "heat") - 60) * 0.4 + (num(s, "dose") - 2) * 3 + noise(i) * 0.6 + (i === 6 ? 9 : 0),
      }));
      await w.go("Model");
      await w.tab("Residuals");
      return w.said('[data-testid="flagged"]');
    },
  },
];

const asked = process.argv.slice(2).map(Number);
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox", "--disable-gpu"] });
const lines: string[] = [];
let failed = 0;
for (const [i, { job, walk }] of jobs.entries()) {
  if (asked.length > 0 && !asked.includes(i + 1)) continue;
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const walker = new Walker(page);
  await page.exposeFunction("countPress", () => {
    walker.presses++;
  });
  // As text: what the compiler adds to functions does not exist in the page.
  await page.addInitScript(
    'for (const kind of ["pointerdown", "keydown"]) addEventListener(kind, () => window.countPress(), true);',
  );
  const start = performance.now();
  try {
    const said = await walk(walker);
    const seconds = ((performance.now() - start) / 1000).toFixed(0);
    lines.push(
      `| ${i + 1} | ${job} | ${walker.presses} | ${walker.fields} | ${seconds} s | ${said.replaceAll("|", "/")} |`,
    );
    console.log(lines[lines.length - 1]);
  } catch (error) {
    failed++;
    await page.screenshot({ path: `/tmp/walk-${i + 1}.png` });
    console.log(`${i + 1}. ${job}: ${String(error).split("\n").slice(0, 4).join(" ")}`);
  }
  await page.close();
}
await browser.close();
if (failed > 0) process.exitCode = 1;
else if (asked.length === 0)
  writeFileSync(
    "docs/walks.md",
    [
      "# Walks",
      "",
      "Whole jobs done in the browser by `npx tsx scripts/walks.ts` against a running server, each from a blank study:",
      "the question pasted as rows, a plan weighed and adopted, results of a made-up process pasted by trial number, then",
      "the model and what is asked of it. *Presses* are those of pointer and keys, *fields* what was typed or pasted; the",
      "seconds are the machine's, thinking not counted.",
      "",
      "| | Job | Presses | Fields | Time | It ended with |",
      "| --- | --- | --- | --- | --- | --- |",
      ...lines,
      "",
    ].join("\n"),
  );
