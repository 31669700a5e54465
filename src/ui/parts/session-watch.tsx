"use client";
import { lazy, Suspense } from "react";
import { noteAnswer, useSession, useSessionEnded } from "./session";

// Fetched when a session has ended.
const Again = lazy(() => import("./sign-in-again").then((m) => ({ default: m.SignInAgain })));

/** Asks for the passphrase again where a session ends while a page stands open. */
export function SessionWatch() {
  const { opened } = useSession();
  const ended = useSessionEnded();
  return <Suspense fallback={null}>{opened && ended && <Again done={() => noteAnswer(200)} />}</Suspense>;
}
