/** Something that can be done, as a menu offers it. */
export interface Command {
  readonly id: string;
  readonly label: string;
  readonly note?: string;
  readonly disabled?: boolean;
  /** Heading under which it stands. */
  readonly group?: string;
  readonly run: () => void;
}

/** How a menu was asked for: where its focus begins. */
export type MenuFocus = 'first' | 'last' | true;

/** A menu that is open. */
export interface OpeningProps {
  /** What it hangs from. */
  readonly from: HTMLElement;
  readonly label: string;
  readonly focus: MenuFocus;
  /** Edge of what it hangs from under which it stands. */
  readonly hang: 'start' | 'end';
  readonly commands: () => readonly Command[];
  readonly onClose: () => void;
}
