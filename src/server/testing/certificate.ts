import { spawnSync } from "node:child_process";
import { mkdirSync } from "node:fs";
import { join } from "node:path";

/** A certificate that signs itself, for tests of encryption: paths of its key and of it (by openssl). */
export function certificate(folder: string, name: string): { key: string; cert: string } {
  mkdirSync(folder, { recursive: true });
  const [key, cert] = [join(folder, "key.pem"), join(folder, "cert.pem")];
  const made = spawnSync(
    "openssl",
    [
      ...["req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes", "-days", "2"],
      ...["-keyout", key, "-out", cert, "-subj", `/CN=${name}`, "-addext", `subjectAltName=DNS:${name}`],
    ],
    { encoding: "utf8" },
  );
  if (made.status !== 0) throw new Error(made.stderr || String(made.error));
  return { key, cert };
}
