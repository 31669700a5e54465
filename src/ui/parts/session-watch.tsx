"use client";
import { lazy, Suspense, useEffect, useState } from "react";
import { noteAnswer, useSession, useSessionEnded } from "./session";

// Fetched when a session has ended.
const Again = lazy(() => import("./sign-in-again").then((m) => ({ default: m.SignInAgain })));

/** How long hands rest before something that nobody asked for may take the keyboard, in milliseconds. */
const AT_REST = 1500;

/**
 * Whether nobody types, from the moment this is wanted: a dialog that opens by itself would take the rest of a figure
 * into its own fields.
 */
function useHandsAtRest(wanted: boolean): boolean {
  const [rest, setRest] = useState(false);
  useEffect(() => {
    setRest(false);
    if (!wanted) return;
    let timer = setTimeout(() => setRest(true), AT_REST);
    const typed = (): void => {
      clearTimeout(timer);
      timer = setTimeout(() => setRest(true), AT_REST);
    };
    window.addEventListener("keydown", typed, true);
    return () => {
      clearTimeout(timer);
      window.removeEventListener("keydown", typed, true);
    };
  }, [wanted]);
  return wanted && rest;
}

/** Asks for the passphrase again where a session ends while a page stands open. */
export function SessionWatch() {
  const { opened } = useSession();
  const asks = useHandsAtRest(useSessionEnded() && opened);
  return <Suspense fallback={null}>{asks && <Again done={() => noteAnswer(200)} />}</Suspense>;
}
