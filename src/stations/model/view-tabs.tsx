"use client";
import { Tabs } from "antd";
import { createContext, memo, useContext } from "react";
import css from "./model.module.css";
import { ViewPanel } from "./view-panel";
import { type PanelProps, views } from "./views";
import type { ViewProps } from "./views/view";

/** What the views show now; apart from their tabs, which stay as they are while terms go in and out. */
export type ShownModel = Omit<PanelProps, keyof ViewProps> & { shown: ViewProps | undefined };
export const Shown = createContext<ShownModel | undefined>(undefined);

function Panel({ view }: { view: string }) {
  const shown = useContext(Shown);
  return shown && <ViewPanel view={view} {...shown} />;
}

/** The views of a model, one at a time. */
export const ViewTabs = memo(function ViewTabs({ view, setView }: { view: string; setView(view: string): void }) {
  return (
    <Tabs
      size="small"
      className={css.tabs}
      aria-label="Views"
      activeKey={view}
      destroyOnHidden
      items={views.map(({ name }) => ({ key: name, label: name, children: name === view && <Panel view={name} /> }))}
      onChange={setView}
    />
  );
});
