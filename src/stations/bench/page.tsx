"use client";
import { useEffect, useState } from "react";
import { useStore } from "zustand";
import type { LikelyRanges } from "@/core/operator";
import type { Study } from "@/core/study";
import css from "./bench.module.css";
import { createBench } from "./queue";
import { BenchStation } from "./station";

/** How often others' entries are asked for, in milliseconds. */
const REFRESH_MS = 10_000;

/** On secure origins the page and its files are kept, so that it opens without the server. */
async function keepPage(): Promise<void> {
  if (!("serviceWorker" in navigator)) return;
  await navigator.serviceWorker.register("/bench-sw.js");
  const { active } = await navigator.serviceWorker.ready;
  const files = performance
    .getEntriesByType("resource")
    .map((e) => new URL(e.name))
    .filter((u) => u.origin === window.location.origin && u.pathname.startsWith("/_next/static/"))
    .map((u) => u.pathname + u.search);
  navigator.serviceWorker.addEventListener("message", () => document.body.setAttribute("data-kept", "yes"));
  active?.postMessage({ files, page: window.location.pathname });
}

/** The bench of a study: made in the page alone, with what this device still holds. */
export function BenchPage({
  id,
  revision,
  stored,
  likely,
}: {
  id: string;
  revision: number;
  stored: string;
  /** Where results are expected before there are any. */
  likely: LikelyRanges;
}) {
  const [bench, setBench] = useState<ReturnType<typeof createBench> | undefined>(undefined);
  // Once: what is noted goes on from what was opened.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a later answer of the server must not replace the bench.
  useEffect(() => {
    const made = createBench(id, revision, JSON.parse(stored) as Study);
    void made
      .getState()
      .resume()
      .then(() => setBench(made));
    const refresh = (): void => void made.getState().refresh();
    const timer = setInterval(() => document.visibilityState === "visible" && refresh(), REFRESH_MS);
    window.addEventListener("online", refresh);
    // What cannot be kept is fetched the next time; nothing else depends on it.
    keepPage().catch(() => undefined);
    return () => {
      clearInterval(timer);
      window.removeEventListener("online", refresh);
    };
  }, []);
  if (!bench) return <div className={css.page} data-ready="no" />;
  return <Ready bench={bench} likely={likely} />;
}

function Ready({ bench, likely }: { bench: ReturnType<typeof createBench>; likely: LikelyRanges }) {
  const state = useStore(bench);
  return <BenchStation bench={state} likely={likely} />;
}
