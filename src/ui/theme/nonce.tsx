"use client";
import { useState } from "react";

/** Gives style elements that our own scripts make the nonce of the page's policy, as they are made. */
function giveNonce(nonce: string): void {
  if (typeof document === "undefined") return;
  const make = document.createElement.bind(document) as (name: string, options?: ElementCreationOptions) => HTMLElement;
  document.createElement = ((name: string, options?: ElementCreationOptions) => {
    const element = make(name, options);
    if (element instanceof HTMLStyleElement) element.nonce = nonce;
    return element;
  }) as typeof document.createElement;
}

/**
 * Stands first on every page. The component library writes style elements as its parts are first drawn; most take a
 * nonce from its settings, those of its scroll lock take none.
 */
export function StyleNonce({ nonce }: { nonce: string }) {
  useState(() => giveNonce(nonce));
  return null;
}
