/** Takes the pictures in docs/screenshots from the demo data of a running application. Run: npx tsx scripts/screenshots.ts URL */
import { chromium } from "@playwright/test";

const base = process.argv[2] ?? "http://127.0.0.1:4270";
const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-gpu", "--disable-quic", "--disable-background-networking"],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const shot = (name: string): Promise<Buffer> => page.screenshot({ path: `docs/screenshots/${name}.png` });
await page.goto(base);
await page.waitForLoadState("networkidle");
await shot("home");
const studies = (await (await page.request.get(`${base}/api/studies`)).json()) as { id: string; title: string }[];
const wool = studies.find((s) => s.title.startsWith("Fellgate"))?.id;
for (const station of ["question", "plan", "trials", "model", "setpoint", "report"]) {
  await page.goto(`${base}/studies/${wool}/${station}`);
  await page.locator('[data-ready="yes"]').waitFor();
  if (station === "setpoint") await page.getByTestId("candidates").waitFor({ timeout: 60_000 });
  if (station === "plan") {
    await page.locator("[data-plan]").first().waitFor({ timeout: 30_000 });
    await page.locator('[data-searching="no"]').waitFor({ timeout: 60_000 });
  }
  await page.waitForTimeout(1500);
  await shot(station);
  if (station === "plan") {
    await page.getByRole("button", { name: /Term map/ }).click();
    for (const row of ["Power", "Where it runs"]) await page.getByRole("button", { name: new RegExp(row) }).click();
    await page.locator("#row-df").evaluate((e) => e.scrollIntoView({ block: "start" }));
    await page.waitForTimeout(300);
    await shot("plan-rows");
  }
  if (station === "model")
    for (const view of ["Pairs", "Half-normal", "Checks", "Table"]) {
      await page.getByRole("tab", { name: view }).click();
      await page.waitForTimeout(400);
      await shot(`model-${view.toLowerCase()}`);
    }
}
await browser.close();
