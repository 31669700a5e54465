"use client";
import { Form, Input } from "antd";
import { readNumber } from "@/core/formats";
import type { Factor, Setting } from "@/core/study";
import { Modal } from "@/ui/parts/overlays";
import { Pick } from "@/ui/parts/pick";

/** One setting to be asked for. */
export interface Asking {
  title: string;
  text: string;
  factor: Pick<Factor, "name" | "unit"> & { levels?: string[] };
  value: string;
  /** What the button does, and what leaving does, in words. */
  done: string;
  leave: string;
  /** @returns the sentence of a refusal */
  take(value: Setting): string | undefined;
}

/**
 * What was typed as a setting.
 * @throws Error with the sentence that says what would do
 */
function settingOf({ levels, unit }: Asking["factor"], text: string): Setting {
  const setting = levels ? levels.find((l) => l === text) : readNumber(text);
  if (setting !== undefined && setting !== null) return setting;
  throw new Error(
    levels
      ? `Choose one of ${levels.join(", ")}.`
      : `“${text}” is not a number; type the value${unit ? ` in ${unit}` : ""}.`,
  );
}

/** Asks for one setting: what earlier trials were held at, or what a retired factor is held at. */
export function AskSetting({ asking, close }: { asking: Asking; close(): void }) {
  const [form] = Form.useForm<{ setting: string }>();
  const { factor } = asking;
  const finish = ({ setting }: { setting: string }): void => {
    const refused = asking.take(settingOf(factor, setting));
    if (refused) form.setFields([{ name: "setting", errors: [refused] }]);
    else close();
  };
  return (
    <Modal
      open
      title={asking.title}
      okText={asking.done}
      cancelText={asking.leave}
      onOk={() => form.submit()}
      onCancel={close}
    >
      <p style={{ marginBottom: 8 }}>{asking.text}</p>
      <Form
        form={form}
        initialValues={{ setting: asking.value }}
        onFinish={finish}
        requiredMark={false}
        colon={false}
        scrollToFirstError={{ focus: true }}
      >
        <Form.Item
          name="setting"
          label={factor.unit ? `${factor.name}, ${factor.unit}` : factor.name}
          trigger={factor.levels ? "set" : "onChange"}
          validateTrigger="onSubmit"
          rules={[{ validator: async (_, text: string) => void settingOf(factor, text) }]}
        >
          {factor.levels ? (
            <Pick
              label={factor.name}
              value={undefined}
              options={factor.levels.map((l) => [l, l])}
              set={() => undefined}
            />
          ) : (
            <Input className="num" style={{ width: 160 }} autoFocus />
          )}
        </Form.Item>
      </Form>
    </Modal>
  );
}
