"use client";
import { Button } from "antd";
import { bringBack, edit, type Factor, isNumeric, middle, retireFactors, type Study, snap } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { settingText } from "@/ui/parts/format";
import { Dropdown } from "@/ui/parts/overlays";
import { moveRow, removeFactor } from "./actions";
import type { Asking } from "./ask-setting";
import css from "./question.module.css";

/** What else may be done with a factor: moved, coded otherwise, retired or brought back, removed. */
export function FactorMenu({
  study,
  factor: f,
  first,
  last,
  ask,
  notice,
}: {
  study: Study;
  factor: Factor;
  first: boolean;
  last: boolean;
  ask(asking: Asking): void;
  notice(refused: string | undefined): void;
}) {
  const commit = useDesk((d) => d.commit);
  return (
    <Dropdown
      trigger={["click"]}
      placement="bottomRight"
      menu={{
        items: [
          {
            key: "up",
            label: "Move up",
            disabled: first,
            onClick: () => commit(moveRow(study, "factors", f.id, -1), `moved ${f.name}`),
          },
          {
            key: "down",
            label: "Move down",
            disabled: last,
            onClick: () => commit(moveRow(study, "factors", f.id, 1), `moved ${f.name}`),
          },
          ...(isNumeric(f)
            ? [
                {
                  key: "log",
                  label: f.scale === "log" ? "Code on a linear scale" : "Code on a log scale",
                  onClick: () =>
                    notice(
                      commit(
                        [edit(study, ["factors", f.id, "scale"], f.scale === "log" ? "linear" : "log")],
                        `scale of ${f.name}`,
                      ),
                    ),
                },
              ]
            : []),
          f.retired === undefined
            ? {
                key: "retire",
                label: "Retire, held at …",
                onClick: () =>
                  ask({
                    title: `Retire ${f.name}`,
                    text: "It leaves plans and models; its settings in trials stay. What is it held at from now on?",
                    factor: {
                      name: f.name,
                      ...(f.unit ? { unit: f.unit } : {}),
                      ...(f.kind === "categorical" ? { levels: f.levels } : {}),
                    },
                    value: f.kind === "categorical" ? f.levels[0] : settingText(snap(f, middle(f))),
                    done: `Retire ${f.name}`,
                    leave: "Keep it in use",
                    take: (v) => commit(retireFactors(study, { [f.id]: v }), `retired ${f.name}`),
                  }),
              }
            : {
                key: "back",
                label: "Bring back",
                onClick: () => commit(bringBack(study, f.id), `brought ${f.name} back`),
              },
          {
            key: "remove",
            label: study.trials.length > 0 ? "Remove, with its settings" : "Remove",
            danger: true,
            onClick: () => notice(commit(removeFactor(study, f.id), `removed ${f.name}`)),
          },
        ],
      }}
    >
      <Button type="text" size="small" className={css.menu} aria-label={`Menu of ${f.name}`}>
        ⋯
      </Button>
    </Dropdown>
  );
}
