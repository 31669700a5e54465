import { counted, type ValuesOf } from "@/core";

/** What the server says of itself; what a study or a question is refused for stands in the core's words. */

const anew = "nothing was changed";

/** Refusals of requests, by code; a case behind a dot is no part of the code that programs see. */
export const problems = {
  "bad-address": (_: object) => "The address cannot be read: it holds bytes that are no text.",
  "wrong-host": (v: { host: string }) =>
    `This server does not answer as “${v.host}”. Use the address it was started with, or set TRIALMOOR_NAMES.`,
  "foreign-page": (_: object) => "A page of another address may not change anything here.",
  "no-session": (_: object) => "Sign in first: this server is open to a network, and answers those it knows.",
  "wrong-passphrase": (_: object) => "This is not the passphrase. Whoever runs the server knows it.",
  "wrong-bench-key": (_: object) =>
    "This link does not open the bench any more: it was taken back, or is not whole. Ask at the desk for a new one.",
  "too-many-tries": (v: { seconds: number }) => `Too many tries; try again in ${counted(v.seconds, "second")}.`,
  "bench-only": (_: object) => "A key of the bench opens the trials of one study there, and nothing else.",
  "not-encrypted": (_: object) =>
    "This request came over a network without encryption, so it is not answered. Use the https address.",
  "this-machine-only": (_: object) =>
    "This server answers this machine alone, where no key is needed. Open it to a network first (docs/operations.md).",
  "too-many-bench-keys": (v: { most: number }) =>
    `A study has at most ${counted(v.most, "key")} of its bench; take one back that is not used.`,
  "no-bench-key": (_: object) => "There is no such key; it may have been taken back already.",
  "wrong-type": (v: { wanted: string }) => `The body must be sent as ${v.wanted}.`,
  "wrong-type.any": (_: object) =>
    "The body must be sent as application/json (a sheet to import: text/csv, or an xlsx workbook by its own type).",
  "too-large": (v: { megabytes: number }) => `The body is larger than ${v.megabytes} MB.`,
  "bad-key": (_: object) => "An Idempotency-Key is up to 200 printable characters without spaces.",
  "key-reused": (_: object) =>
    "Another request was made under this Idempotency-Key; give each request a key of its own.",
  "no-method": (v: { method: string; allowed: string[] }) =>
    `There is no ${v.method} here; this address takes ${v.allowed.join(", ")}.`,
  "no-address": (v: { address: string }) =>
    `There is nothing at ${v.address}; /api/openapi.json describes what there is.`,
  "no-verb": (v: { verb: string }) => `A study has no “${v.verb}”.`,
  "no-study": (_: object) => "There is no such study; it may have been deleted. Open another from Home.",
  "no-example": (v: { name: string }) => `There is no shipped example “${v.name}”.`,
  "no-revision": (v: { revision: number; now: number }) =>
    `The study never stood at revision ${v.revision}; it stands at ${v.now}.`,
  "no-revision.name": (v: { text: string }) => `Revisions are whole numbers from 1; “${v.text}” is none.`,
  "past-unreadable": (v: { revision: number; why: string }) =>
    `Revision ${v.revision} cannot be put together from the log: ${v.why} Nothing was changed.`,
  "no-mark": (_: object) => "There is no such mark; it may have been taken away elsewhere.",
  "no-backup": (v: { name: string }) => `There is no backup “${v.name}” in the folder of backups.`,
  "backup-damaged": (v: { name: string }) => `The backup ${v.name} is damaged or cut short, so ${anew}. Use another.`,
  "backup-newer": (v: { name: string; unknown: string[] }) =>
    `The backup ${v.name} was made by a newer version of Trialmoor (${v.unknown.join(", ")}), so ${anew}. Start that version to restore it.`,
  "not-a-backup": (v: { name: string }) => `${v.name} is no backup of Trialmoor, so ${anew}.`,
  "not-a-backup.study": (v: { name: string }) =>
    `${v.name} is a study file, not a backup: open it with “Open a study file” on Home.`,
  "backup-foreign": (v: { name: string; what: string }) =>
    `The backup ${v.name} holds more than backups of Trialmoor do (${v.what}), so ${anew}. Use one that was saved from Home.`,
  "backup-rows": (v: { name: string; table: string; rows: number }) =>
    `In the backup ${v.name} ${counted(v.rows, "row")} of ${v.table} ${v.rows === 1 ? "holds" : "hold"} what no server wrote, so ${anew}. Use another.`,
  "backup-studies": (v: { name: string; count: number; named: { title: string; why: string }[] }) =>
    `The backup ${v.name} holds ${counted(v.count, "study", "studies")} that cannot be read (${v.named.map((s) => `“${s.title}”: ${s.why}`).join("; ")}${v.count > v.named.length ? "; and more" : ""}), so ${anew}. Use another.`,
  "backup-link": (v: { name: string }) =>
    `The file ${v.name} in the folder of backups is a link to a file elsewhere, so it is not touched. Put the file itself there.`,
  "not-in-backup": (v: { studies: string[] }) =>
    `The backup holds no study ${v.studies.join(", ")}, so ${anew}. Ask for those it lists.`,
  "backup-folder": (v: { folder: string }) =>
    `The folder of backups, ${v.folder}, cannot be written. Allow it, or give TRIALMOOR_BACKUPS another folder.`,
  "backup-disk-full": (v: { folder: string }) =>
    `The disk of the folder of backups, ${v.folder}, is full; no backup was made. Make room, or give TRIALMOOR_BACKUPS another folder.`,
  "no-job": (_: object) => "There is no such computation.",
  "bad-format": (v: { format: string }) =>
    `There is no export format “${v.format}”; the formats are csv, xlsx, json and raw.`,
  missing: (_: object) => "Taking a sheet changes the study; send its revision, or dry=1 to see what would change.",
  "damaged-study": (v: { title: string; why: string; id: string }) =>
    `The study “${v.title}” cannot be read: ${v.why}. The others work; save its raw file (/api/studies/${v.id}/export?format=raw) before anything else.`,
  "stale-revision": (v: { now: number; seen: number }) =>
    `The study was changed elsewhere: it is at revision ${v.now}, this change was made on ${v.seen}. Nothing was overwritten.`,
  "stale-revision.delete": (_: object) =>
    "The study was changed elsewhere since this page showed it; look again before deleting it.",
  clash: (_: object) => "Something else was entered here meanwhile; nothing was overwritten. Choose between the two.",
  "no-rig": (v: { rig: string }) => `No rig “${v.rig}” was ever heard of here; it makes itself known over the broker.`,
  "rig-elsewhere": (v: { rig: string; study: string }) => `${v.rig} runs trials of “${v.study}”; stop it there first.`,
  "lease-over": (_: object) =>
    "This lease is over: it ran out, was taken back, or the trial was lent again. Ask for the next trial.",
  "lease-over.trial": (v: { order: number }) =>
    `Trial ${v.order} does not wait any more: it was entered otherwise meanwhile. Nothing was overwritten.`,
  "background-change": (_: object) =>
    "What works in the background cannot be taken up in the same call; read the job's answer, then send it.",
  busy: (v: { waiting: number; seconds: number }) =>
    `${counted(v.waiting, "computation")} ${v.waiting === 1 ? "waits" : "wait"} for a thread already; ask again in ${counted(v.seconds, "second")}.`,
  "takes-too-much": (v: { megabytes: number }) => `This takes more than ${v.megabytes} MB of memory: ask for less.`,
  "takes-too-long": (v: { seconds: number; background: boolean }) =>
    `This takes longer than ${v.seconds} seconds: ${v.background ? "send it with background: true, or " : ""}ask for less.`,
  stopped: (_: object) => "The computation was stopped.",
  "disk-full": (_: object) => `The server's disk is full; ${anew}. Make room on it and try again.`,
  "read-only": (_: object) =>
    `The server cannot write its database; ${anew}. Let it write its data folder and try again.`,
  database: (_: object) => `The server's database cannot be used at the moment; ${anew}. Its log says why.`,
  "server-error": (_: object) => `The server could not do this; ${anew}. Its log says why.`,
  "server-error.unsure": (_: object) => "The server could not do this; its log says why.",
  "server-error.job": (_: object) => "The computation failed; the server's log says why.",
};

export type ProblemValues = ValuesOf<typeof problems>;

const folderOf = (v: { folder: string }): string => `The data folder ${v.folder} cannot be used:`;
const another = "give TRIALMOOR_DATA another folder";

const open = (v: { host: string }): string => `To be reached at ${v.host}, the server needs`;

/** Why the server cannot start, for whoever starts it: place, cause and way out; by code. */
export const starts = {
  "bad-port": (v: { port: string }) => `PORT is ${v.port}; give a number from 1 to 65535.`,
  "port-taken": (v: { port: number }) =>
    `Port ${v.port} is taken by another program. Stop that one, or set PORT to another number.`,
  "not-encrypted": (v: { host: string }) =>
    `${open(v)} encryption: set TRIALMOOR_TLS_KEY and TRIALMOOR_TLS_CERT, or TRIALMOOR_PROXY=1 behind a proxy on this machine that does it.`,
  "no-names": (v: { host: string }) =>
    `${open(v)} the names that people call it by: set TRIALMOOR_NAMES, with commas between.`,
  "no-passphrase": (v: { host: string; folder: string }) =>
    `${open(v)} a passphrase; ${v.folder} holds none. Set one with npm run passphrase.`,
  "bad-passphrase-file": (v: { path: string }) =>
    `${v.path} is damaged or may not be read, so nobody could sign in. Set the passphrase anew with npm run passphrase.`,
  "tls-half": (_: object) =>
    "TRIALMOOR_TLS_KEY and TRIALMOOR_TLS_CERT go together; only one of them is set. Set both, or neither.",
  "tls-unreadable": (v: { what: string }) =>
    `The key and certificate of TRIALMOOR_TLS_KEY and TRIALMOOR_TLS_CERT cannot be used: ${v.what}. Give a PEM key and the certificate that was made for it.`,
  "bad-proxy": (v: { text: string }) => `TRIALMOOR_PROXY is ${v.text}; set it to 1, or leave it out.`,
  "bad-host": (v: { host: string }) =>
    `TRIALMOOR_HOST is ${v.host}, which is no address of this machine. Give one it has, or 0.0.0.0 for all.`,
  "passphrase-short": (v: { least: number }) =>
    `A passphrase has at least ${v.least} characters; nothing was set. Several words make a good one.`,
  "passphrase-long": (v: { most: number }) =>
    `A passphrase has at most ${v.most} characters; nothing was set. Choose a shorter one.`,
  "passphrase-differs": (_: object) => "The two were not the same; nothing was set. Type it again.",
  "no-database": (v: { folder: string }) =>
    `${folderOf(v)} trialmoor.sqlite in it is not a database, or is scrambled. Move it away and start again, or put a backup of it in its place.`,
  damaged: (v: { folder: string }) =>
    `${folderOf(v)} the database trialmoor.sqlite in it is damaged. Put a backup of it in its place, or move it away and start again.`,
  "disk-full": (v: { folder: string }) =>
    `${folderOf(v)} its disk is full. Make room, or give TRIALMOOR_DATA a folder on another disk.`,
  "not-allowed": (v: { folder: string }) =>
    `${folderOf(v)} it, or a file in it, may not be written by this user. Allow it, or ${another}.`,
  "cannot-open": (v: { folder: string }) =>
    `${folderOf(v)} trialmoor.sqlite in it cannot be opened, since it is no file or may not be read and written. Allow it, or ${another}.`,
  "cannot-make": (v: { folder: string }) =>
    `The data folder ${v.folder} is not there and cannot be made. Make it, or ${another}.`,
  other: (v: { folder: string; what: string }) =>
    `${folderOf(v)} ${v.what}. Give TRIALMOOR_DATA another folder, or mend this one.`,
  held: (v: { folder: string; by: { pid: number; since: string } | null }) =>
    `The data folder ${v.folder} is held by another Trialmoor${v.by ? ` (process ${v.by.pid}, since ${v.by.since})` : ""}. Stop that one, or ${another}.`,
  newer: (v: { folder: string; unknown: string[] }) =>
    `The data folder ${v.folder} was written by a newer version of Trialmoor (${v.unknown.join(", ")}). Start that version, or ${another}.`,
  "no-folder": (v: { folder: string }) =>
    `${v.folder} is a file, not a folder. Give TRIALMOOR_DATA the path of a folder.`,
  "gone-or-empty": (v: { folder: string; empty: boolean }) =>
    `${folderOf(v)} its database trialmoor.sqlite ${v.empty ? "is empty" : "is gone"}, though studies were kept in it. Put a backup of it in its place, or delete trialmoor.holder.json too and start afresh.`,
};

export type StartValues = ValuesOf<typeof starts>;
