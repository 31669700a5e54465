/** Sets the passphrase by which people sign in: `npm run passphrase`. Typed unseen, or one line of standard input. */
import { mkdirSync } from "node:fs";
import { createInterface } from "node:readline/promises";
import { read } from "read";
import { dataFolder, StartError, startErrorOf } from "../folder";
import { LEAST_CHARACTERS, setPassphrase } from "./passphrase";

async function ask(): Promise<string> {
  if (!process.stdin.isTTY) {
    for await (const line of createInterface({ input: process.stdin })) return line;
    return "";
  }
  const unseen = (prompt: string): Promise<string> => read({ prompt, silent: true });
  const first = await unseen(`Passphrase of ${LEAST_CHARACTERS} characters or more: `);
  if ((await unseen("\nOnce more: ")) !== first) throw new StartError("passphrase-differs", {});
  console.log();
  return first;
}

const folder = dataFolder();
try {
  const passphrase = await ask();
  mkdirSync(folder, { recursive: true });
  await setPassphrase(folder, passphrase);
  console.log("The passphrase is set. Whoever was signed in signs in again.");
} catch (error) {
  console.error((error instanceof StartError ? error : startErrorOf(folder, error)).message);
  process.exit(1);
}
