"use client";
import { Button, Upload } from "antd";

/** A button that takes a file from this machine. */
export const FilePick = ({
  children,
  accept,
  of,
  disabled = false,
  take,
}: {
  children: string;
  accept: string;
  /** What the file holds, for who looks for its input. */
  of: string;
  disabled?: boolean;
  take(file: File): void;
}) => (
  <Upload
    accept={accept}
    showUploadList={false}
    disabled={disabled}
    data-file={of}
    beforeUpload={(file) => {
      take(file);
      // Nothing is sent anywhere: the page reads it.
      return Upload.LIST_IGNORE;
    }}
  >
    <Button disabled={disabled}>{children}</Button>
  </Upload>
);
