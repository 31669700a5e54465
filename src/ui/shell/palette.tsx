"use client";
import { AutoComplete } from "antd";
import { Modal } from "../parts/overlays";
import css from "./shell.module.css";

/** Something that the palette does. */
export interface PaletteCommand {
  name: string;
  keys?: string;
  run(): void;
}

/** Everything that can be done, found by its name. */
export function Palette({ close, commands }: { close(): void; commands: PaletteCommand[] }) {
  const run = (name: string): void => {
    const found = commands.find((c) => c.name === name);
    if (!found) return;
    close();
    found.run();
  };
  return (
    <Modal open onCancel={close} footer={null} closable={false} width={480} title="Commands">
      <AutoComplete
        open
        autoFocus
        defaultActiveFirstOption
        aria-label="Find a command"
        placeholder="Find a command"
        style={{ width: "100%", marginBottom: 328 }}
        listHeight={320}
        filterOption={(typed, option) => (option?.value ?? "").toLowerCase().includes(typed.toLowerCase())}
        notFoundContent="No command is called that."
        options={commands.map((c) => ({
          value: c.name,
          label: (
            <span className={css.command}>
              {c.name}
              {c.keys && <kbd>{c.keys}</kbd>}
            </span>
          ),
        }))}
        onSelect={run}
        onKeyDown={(e) => {
          // Else the same key would press the first button of what opens next.
          if (e.key === "Enter") e.preventDefault();
        }}
      />
    </Modal>
  );
}
