"use client";
import { Button, type ButtonProps } from "antd";

/** A button that reads as a word of the text it stands in. */
export const LinkButton = ({ className, ...props }: ButtonProps) => (
  <Button type="link" size="small" className={className ? `quick ${className}` : "quick"} {...props} />
);

/** A button that stays pressed. */
export const Toggle = ({ on, ...props }: ButtonProps & { on: boolean }) => (
  <Button type={on ? "primary" : "default"} aria-pressed={on} {...props} />
);
