"use client";
import { createContext, type ReactNode, useContext } from "react";

const Nonce = createContext<string | undefined>(undefined);

/** Hands the nonce of the page's policy to whatever writes style elements. */
export const NonceProvider = ({ nonce, children }: { nonce: string | undefined; children: ReactNode }) => (
  <Nonce.Provider value={nonce}>{children}</Nonce.Provider>
);

export const useNonce = (): string | undefined => useContext(Nonce);
