/** What a script is written for: where trials are lent, by which key, and what must come back. */
export interface ScriptFor {
  address: string;
  /** Empty where this machine needs none. */
  key: string;
  title: string;
  /** Ids of the responses. */
  responses: readonly string[];
}

/** A script in one language, ready to be filled in. */
export interface Script {
  name: string;
  file: string;
  of(script: ScriptFor): string;
}

/** On one line, and no end of a comment. */
const plain = (text: string): string => text.replace(/[\r\n*/"'`\\$]+/g, " ").trim();

const shell = ({ address, key, title, responses }: ScriptFor): string => `#!/bin/sh
# Runs the waiting trials of ${plain(title)} through a program, until none is left.
# PROGRAM reads one trial as JSON on its standard input, {"settings": {…}, "coded": {…}, …},
# and prints a line for each response: ${responses.map((r) => `${r}=…`).join(" ")}
PROGRAM=\${PROGRAM:-./my-program}
ADDRESS='${address}'
KEY='${key}'
HOLDER="$(hostname)-$$"

answer=$(mktemp) errors=$(mktemp) lease=
ask() { curl -sS --retry 8 --retry-connrefused \${KEY:+-H "Authorization: Bearer $KEY"} "$@"; }
# A trial that this script leaves unfinished is given back.
leave() { [ -z "$lease" ] || ask -X DELETE "$ADDRESS/$lease" > /dev/null; rm -f "$answer" "$errors"; }
trap leave EXIT
trap 'exit 130' INT TERM
fail() { ask -X POST -H "Idempotency-Key: $lease-fail" -H 'Content-Type: text/plain' --data-binary "$1" "$ADDRESS/$lease/fail" > /dev/null; }

while :; do
  said=$(ask -X POST -H 'Content-Type: application/json' -d "{\\"holder\\":\\"$HOLDER\\"}" \\
    -w '\\n%{http_code} %header{retry-after}' "$ADDRESS") || exit 1
  status=$(printf '%s\\n' "$said" | tail -n 1)
  trial=$(printf '%s\\n' "$said" | sed '$d')
  case $status in
    200*) ;;
    '204 '?*) sleep "\${status#204 }"; continue ;;
    204*) echo 'Nothing is left to run.'; exit 0 ;;
    *) printf '%s\\n' "$trial" >&2; exit 1 ;;
  esac
  lease=$(printf '%s' "$trial" | sed 's/.*"lease":"\\([^"]*\\)".*/\\1/')
  if printf '%s\\n' "$trial" | $PROGRAM > "$answer" 2> "$errors"; then
    said=$(ask -X POST -H "Idempotency-Key: $lease" -H 'Content-Type: text/plain' --data-binary @"$answer" \\
      -w '\\n%{http_code}' "$ADDRESS/$lease/results")
    case $said in
      *200) ;;
      # An answer that cannot be read fails the trial, with why.
      *422) fail "$(printf '%s' "$said" | sed -n 's/.*"detail":"\\(\\([^"\\\\]\\|\\\\.\\)*\\)".*/\\1/p')" ;;
      *) printf '%s\\n' "$said" >&2 ;;
    esac
  else
    fail "$(tail -n 1 "$errors")"
  fi
  lease=
done
`;

const python = ({ address, key, title, responses }: ScriptFor): string => `#!/usr/bin/env python3
"""Runs the waiting trials of ${plain(title)} until none is left."""
import json
import os
import socket
import time
import urllib.error
import urllib.request

ADDRESS = "${address}"
KEY = "${key}"
HOLDER = f"{socket.gethostname()}-{os.getpid()}"


def run(settings, trial):
    """One trial: settings by factor in, a number for each response out (a list where there are several)."""
    raise NotImplementedError("Put your simulation here.")
    return {${responses.map((r) => `${JSON.stringify(r)}: 0.0`).join(", ")}}


def ask(method, path="", body=None, name=None):
    headers = {"Content-Type": "application/json"}
    if KEY:
        headers["Authorization"] = f"Bearer {KEY}"
    if name:
        headers["Idempotency-Key"] = name
    data = None if body is None else json.dumps(body).encode()
    for wait in (1, 2, 4, 8, 15, 30, 60, None):
        try:
            request = urllib.request.Request(ADDRESS + path, data, headers, method=method)
            with urllib.request.urlopen(request) as answer:
                text = answer.read()
                return answer.status, json.loads(text) if text else {}, answer.headers
        except urllib.error.HTTPError as error:
            return error.code, json.loads(error.read() or b"{}"), error.headers
        except OSError:
            if wait is None:
                raise
            time.sleep(wait)


while True:
    status, trial, headers = ask("POST", body={"holder": HOLDER})
    if status == 204 and headers["Retry-After"]:
        time.sleep(int(headers["Retry-After"]))
        continue
    if status == 204:
        print("Nothing is left to run.")
        break
    if status != 200:
        raise SystemExit(trial.get("detail", status))
    lease = trial["lease"]
    try:
        results = run(trial["settings"], trial)
        status, answer, _ = ask("POST", f"/{lease}/results", {"results": results}, lease)
        if status == 422:
            raise ValueError(answer["detail"])
        print(f"trial {trial['order']}:", results if status == 200 else answer.get("detail"))
    except (NotImplementedError, KeyboardInterrupt):
        # A trial that this script leaves unfinished is given back.
        ask("DELETE", f"/{lease}")
        raise
    except Exception as error:
        ask("POST", f"/{lease}/fail", {"reason": f"{type(error).__name__}: {error}"}, f"{lease}-fail")
        print(f"trial {trial['order']} failed: {error}")
`;

const javascript = ({ address, key, title, responses }: ScriptFor): string => `#!/usr/bin/env node
// Runs the waiting trials of ${plain(title)} until none is left.
import { hostname } from "node:os";

const ADDRESS = "${address}";
const KEY = "${key}";
const HOLDER = \`\${hostname()}-\${process.pid}\`;

/** One trial: settings by factor in, a number for each response out (a list where there are several). */
async function run(settings, trial) {
  throw new Unfinished("Put your simulation here.");
  return { ${responses.map((r) => `${JSON.stringify(r)}: 0`).join(", ")} };
}

class Unfinished extends Error {}
const wait = (seconds) => new Promise((resolve) => setTimeout(resolve, seconds * 1000));

async function ask(method, path = "", body, name) {
  const headers = { "content-type": "application/json" };
  if (KEY) headers.authorization = \`Bearer \${KEY}\`;
  if (name) headers["idempotency-key"] = name;
  for (const seconds of [1, 2, 4, 8, 15, 30, 60, undefined]) {
    try {
      const answer = await fetch(ADDRESS + path, { method, headers, body: body && JSON.stringify(body) });
      const text = await answer.text();
      return { status: answer.status, again: answer.headers.get("retry-after"), data: text ? JSON.parse(text) : {} };
    } catch (error) {
      if (seconds === undefined) throw error;
      await wait(seconds);
    }
  }
}

for (;;) {
  const { status, again, data: trial } = await ask("POST", "", { holder: HOLDER });
  if (status === 204 && again) {
    await wait(Number(again));
    continue;
  }
  if (status === 204) {
    console.log("Nothing is left to run.");
    break;
  }
  if (status !== 200) throw new Error(trial.detail ?? status);
  const { lease, order, settings } = trial;
  try {
    const results = await run(settings, trial);
    const answer = await ask("POST", \`/\${lease}/results\`, { results }, lease);
    if (answer.status === 422) throw new Error(answer.data.detail);
    console.log(\`trial \${order}:\`, answer.status === 200 ? results : answer.data.detail);
  } catch (error) {
    if (error instanceof Unfinished) {
      // A trial that this script leaves unfinished is given back.
      await ask("DELETE", \`/\${lease}\`);
      throw error;
    }
    await ask("POST", \`/\${lease}/fail\`, { reason: String(error) }, \`\${lease}-fail\`);
    console.log(\`trial \${order} failed: \${error.message}\`);
  }
}
`;

/** Scripts that ask for trials and send results, by language. */
export const SCRIPTS = {
  shell: { name: "Shell", file: "run-trials.sh", of: shell },
  python: { name: "Python", file: "run-trials.py", of: python },
  javascript: { name: "JavaScript", file: "run-trials.mjs", of: javascript },
} as const satisfies Record<string, Script>;

export type Language = keyof typeof SCRIPTS;
