"use client";
import { Dropdown, type DropdownProps, Modal, type ModalProps, Popover, type PopoverProps } from "antd";
import { Themed } from "../theme/themed";

/** The component library's overlays in our theme: a chunk of its own, fetched once a page stands. */

export const ShelfModal = (props: ModalProps) => (
  <Themed>
    <Modal {...props} />
  </Themed>
);

export const ShelfPopover = (props: PopoverProps) => (
  <Themed>
    <Popover {...props} />
  </Themed>
);

export const ShelfDropdown = (props: DropdownProps) => (
  <Themed>
    <Dropdown {...props} />
  </Themed>
);
