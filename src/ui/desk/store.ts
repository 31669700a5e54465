"use client";
import { createContext, useContext } from "react";
import { useStore } from "zustand";
import { createStore, type StateCreator, type StoreApi } from "zustand/vanilla";
import { type Mark, Memo, type Study } from "@/core/study";
import { createLooking, type Looking } from "./looking";
import { createMarking, type Marking } from "./marking";
import { createProbing, type Probing } from "./probe";
import { createSaving, type Saving } from "./saving";
import { createUndo, type Undo } from "./undo";

/** What is edited, what waits to be saved, what can be undone, where the probe stands, what is looked at. */
export type Desk = Saving &
  Marking &
  Undo &
  Probing &
  Looking & {
    /** What is kept of figures derived from the study, for as long as the desk stands. */
    memo: Memo;
  };

/** One part of a desk, a file each; it sees the others through the whole. */
export type Slice<T> = StateCreator<Desk, [], [], T>;

/** A desk for one study. */
export const createDesk = (id: string, revision: number, opened: Study, marks: readonly Mark[] = []): StoreApi<Desk> =>
  createStore<Desk>()((...parts) => ({
    ...createSaving(id, revision, opened)(...parts),
    ...createMarking(id, marks)(...parts),
    ...createUndo(...parts),
    ...createProbing(opened)(...parts),
    ...createLooking(opened)(...parts),
    memo: new Memo(),
  }));

const DeskContext = createContext<StoreApi<Desk> | undefined>(undefined);
export const DeskProvider = DeskContext.Provider;

/** The desk itself, for handlers that need its state when they run. */
export function useDeskStore(): StoreApi<Desk> {
  const store = useContext(DeskContext);
  if (!store) throw new Error("No desk: this part stands outside a study.");
  return store;
}

/** A piece of the desk that a part of the page follows. */
export const useDesk = <T>(select: (desk: Desk) => T): T => useStore(useDeskStore(), select);
