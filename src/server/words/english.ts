import { counted, type Words } from "@/core/findings";
import type { ProblemValues, StartValues } from "./values";

/** What the server says of itself; what a study or a question is refused for stands in the core's words. */

const anew = "nothing was changed";

/** Refusals of requests, by code; a case behind a dot is no part of the code that programs see. */
export const problems: Words<ProblemValues> = {
  "bad-address": () => "The address cannot be read: it holds bytes that are no text.",
  "wrong-host": (v) =>
    `This server does not answer as “${v.host}”. Use the address it was started with, or set TRIALMOOR_NAMES.`,
  "foreign-page": () => "A page of another address may not change anything here.",
  "no-session": () => "Sign in first: this server is open to a network, and answers those it knows.",
  "wrong-passphrase": () => "This is not the passphrase. Whoever runs the server knows it.",
  "wrong-bench-key": () =>
    "This link does not open the bench any more: it was taken back, or is not whole. Ask at the desk for a new one.",
  "too-many-tries": (v) => `Too many tries; try again in ${counted(v.seconds, "second")}.`,
  "bench-only": () => "A key of the bench opens the trials of one study there, and nothing else.",
  "not-encrypted": () =>
    "This request came over a network without encryption, so it is not answered. Use the https address.",
  "this-machine-only": () =>
    "This server answers this machine alone, where no key is needed. Open it to a network first (docs/operations.md).",
  "too-many-bench-keys": (v) =>
    `A study has at most ${counted(v.most, "key")} of its bench; take one back that is not used.`,
  "no-bench-key": () => "There is no such key; it may have been taken back already.",
  "wrong-type": (v) => `The body must be sent as ${v.wanted}.`,
  "wrong-type.any": () =>
    "The body must be sent as application/json (a sheet to import: text/csv, or an xlsx workbook by its own type).",
  "too-large": (v) => `The body is larger than ${v.megabytes} MB.`,
  "bad-key": () => "An Idempotency-Key is up to 200 printable characters without spaces.",
  "key-reused": () => "Another request was made under this Idempotency-Key; give each request a key of its own.",
  "no-method": (v) => `There is no ${v.method} here; this address takes ${v.allowed.join(", ")}.`,
  "no-address": (v) => `There is nothing at ${v.address}; /api/openapi.json describes what there is.`,
  "no-verb": (v) => `A study has no “${v.verb}”.`,
  "no-study": () => "There is no such study; it may have been deleted. Open another from Home.",
  "no-example": (v) => `There is no shipped example “${v.name}”.`,
  "no-revision": (v) => `The study never stood at revision ${v.revision}; it stands at ${v.now}.`,
  "no-revision.name": (v) => `Revisions are whole numbers from 1; “${v.text}” is none.`,
  "past-unreadable": (v) => `Revision ${v.revision} cannot be put together from the log: ${v.why} Nothing was changed.`,
  "no-mark": () => "There is no such mark; it may have been taken away elsewhere.",
  "no-backup": (v) => `There is no backup “${v.name}” in the folder of backups.`,
  "backup-damaged": (v) => `The backup ${v.name} is damaged or cut short, so ${anew}. Use another.`,
  "backup-newer": (v) =>
    `The backup ${v.name} was made by a newer version of Trialmoor (${v.unknown.join(", ")}), so ${anew}. Start that version to restore it.`,
  "not-a-backup": (v) => `${v.name} is no backup of Trialmoor, so ${anew}.`,
  "not-a-backup.study": (v) => `${v.name} is a study file, not a backup: open it with “Open a study file” on Home.`,
  "backup-foreign": (v) =>
    `The backup ${v.name} holds more than backups of Trialmoor do (${v.what}), so ${anew}. Use one that was saved from Home.`,
  "backup-rows": (v) =>
    `In the backup ${v.name} ${counted(v.rows, "row")} of ${v.table} ${v.rows === 1 ? "holds" : "hold"} what no server wrote, so ${anew}. Use another.`,
  "backup-studies": (v) =>
    `The backup ${v.name} holds ${counted(v.count, "study", "studies")} that cannot be read (${v.named.map((s) => `“${s.title}”: ${s.why}`).join("; ")}${v.count > v.named.length ? "; and more" : ""}), so ${anew}. Use another.`,
  "backup-link": (v) =>
    `The file ${v.name} in the folder of backups is a link to a file elsewhere, so it is not touched. Put the file itself there.`,
  "not-in-backup": (v) => `The backup holds no study ${v.studies.join(", ")}, so ${anew}. Ask for those it lists.`,
  "backup-folder": (v) =>
    `The folder of backups, ${v.folder}, cannot be written. Allow it, or give TRIALMOOR_BACKUPS another folder.`,
  "backup-disk-full": (v) =>
    `The disk of the folder of backups, ${v.folder}, is full; no backup was made. Make room, or give TRIALMOOR_BACKUPS another folder.`,
  "no-job": () => "There is no such computation.",
  "bad-format": (v) => `There is no export format “${v.format}”; the formats are csv, xlsx, json and raw.`,
  missing: () => "Taking a sheet changes the study; send its revision, or dry=1 to see what would change.",
  "damaged-study": (v) =>
    `The study “${v.title}” cannot be read: ${v.why}. The others work; save its raw file (/api/studies/${v.id}/export?format=raw) before anything else.`,
  "stale-revision": (v) =>
    `The study was changed elsewhere: it is at revision ${v.now}, this change was made on ${v.seen}. Nothing was overwritten.`,
  "stale-revision.delete": () =>
    "The study was changed elsewhere since this page showed it; look again before deleting it.",
  clash: () => "Something else was entered here meanwhile; nothing was overwritten. Choose between the two.",
  "no-rig": (v) => `No rig “${v.rig}” was ever heard of here; it makes itself known over the broker.`,
  "rig-elsewhere": (v) => `${v.rig} runs trials of “${v.study}”; stop it there first.`,
  "lease-over": () =>
    "This lease is over: it ran out, was taken back, or the trial was lent again. Ask for the next trial.",
  "lease-over.trial": (v) =>
    `Trial ${v.order} does not wait any more: it was entered otherwise meanwhile. Nothing was overwritten.`,
  "background-change": () =>
    "What works in the background cannot be taken up in the same call; read the job's answer, then send it.",
  busy: (v) =>
    `${counted(v.waiting, "computation")} ${v.waiting === 1 ? "waits" : "wait"} for a thread already; ask again in ${counted(v.seconds, "second")}.`,
  "takes-too-much": (v) => `This takes more than ${v.megabytes} MB of memory: ask for less.`,
  "takes-too-long": (v) =>
    `This takes longer than ${v.seconds} seconds: ${v.background ? "send it with background: true, or " : ""}ask for less.`,
  stopped: () => "The computation was stopped.",
  "disk-full": () => `The server's disk is full; ${anew}. Make room on it and try again.`,
  "read-only": () => `The server cannot write its database; ${anew}. Let it write its data folder and try again.`,
  database: () => `The server's database cannot be used at the moment; ${anew}. Its log says why.`,
  "server-error": () => `The server could not do this; ${anew}. Its log says why.`,
  "server-error.unsure": () => "The server could not do this; its log says why.",
  "server-error.job": () => "The computation failed; the server's log says why.",
};

const folderOf = (v: { folder: string }): string => `The data folder ${v.folder} cannot be used:`;
const another = "give TRIALMOOR_DATA another folder";

const open = (v: { host: string }): string => `To be reached at ${v.host}, the server needs`;

/** Why the server cannot start, for whoever starts it: place, cause and way out; by code. */
export const starts: Words<StartValues> = {
  "bad-port": (v) => `PORT is ${v.port}; give a number from 1 to 65535.`,
  "port-taken": (v) => `Port ${v.port} is taken by another program. Stop that one, or set PORT to another number.`,
  "not-encrypted": (v) =>
    `${open(v)} encryption: set TRIALMOOR_TLS_KEY and TRIALMOOR_TLS_CERT, or TRIALMOOR_PROXY=1 behind a proxy on this machine that does it.`,
  "no-names": (v) => `${open(v)} the names that people call it by: set TRIALMOOR_NAMES, with commas between.`,
  "no-passphrase": (v) => `${open(v)} a passphrase; ${v.folder} holds none. Set one with npm run passphrase.`,
  "bad-passphrase-file": (v) =>
    `${v.path} is damaged or may not be read, so nobody could sign in. Set the passphrase anew with npm run passphrase.`,
  "tls-half": () =>
    "TRIALMOOR_TLS_KEY and TRIALMOOR_TLS_CERT go together; only one of them is set. Set both, or neither.",
  "tls-unreadable": (v) =>
    `The key and certificate of TRIALMOOR_TLS_KEY and TRIALMOOR_TLS_CERT cannot be used: ${v.what}. Give a PEM key and the certificate that was made for it.`,
  "bad-proxy": (v) => `TRIALMOOR_PROXY is ${v.text}; set it to 1, or leave it out.`,
  "bad-host": (v) =>
    `TRIALMOOR_HOST is ${v.host}, which is no address of this machine. Give one it has, or 0.0.0.0 for all.`,
  "passphrase-short": (v) =>
    `A passphrase has at least ${v.least} characters; nothing was set. Several words make a good one.`,
  "passphrase-long": (v) => `A passphrase has at most ${v.most} characters; nothing was set. Choose a shorter one.`,
  "passphrase-differs": () => "The two were not the same; nothing was set. Type it again.",
  "no-database": (v) =>
    `${folderOf(v)} trialmoor.sqlite in it is not a database, or is scrambled. Move it away and start again, or put a backup of it in its place.`,
  damaged: (v) =>
    `${folderOf(v)} the database trialmoor.sqlite in it is damaged. Put a backup of it in its place, or move it away and start again.`,
  "disk-full": (v) => `${folderOf(v)} its disk is full. Make room, or give TRIALMOOR_DATA a folder on another disk.`,
  "not-allowed": (v) => `${folderOf(v)} it, or a file in it, may not be written by this user. Allow it, or ${another}.`,
  "cannot-open": (v) =>
    `${folderOf(v)} trialmoor.sqlite in it cannot be opened, since it is no file or may not be read and written. Allow it, or ${another}.`,
  "cannot-make": (v) => `The data folder ${v.folder} is not there and cannot be made. Make it, or ${another}.`,
  other: (v) => `${folderOf(v)} ${v.what}. Give TRIALMOOR_DATA another folder, or mend this one.`,
  held: (v) =>
    `The data folder ${v.folder} is held by another Trialmoor${v.by ? ` (process ${v.by.pid}, since ${v.by.since})` : ""}. Stop that one, or ${another}.`,
  newer: (v) =>
    `The data folder ${v.folder} was written by a newer version of Trialmoor (${v.unknown.join(", ")}). Start that version, or ${another}.`,
  "no-folder": (v) => `${v.folder} is a file, not a folder. Give TRIALMOOR_DATA the path of a folder.`,
  "gone-or-empty": (v) =>
    `${folderOf(v)} its database trialmoor.sqlite ${v.empty ? "is empty" : "is gone"}, though studies were kept in it. Put a backup of it in its place, or delete trialmoor.holder.json too and start afresh.`,
};
