export interface MenuItem {
  readonly label: string;
  readonly keys?: string;
  readonly checked?: boolean;
  readonly disabled?: boolean;
  readonly danger?: boolean;
  readonly run: () => void;
}
export interface OpenMenu {
  readonly x: number;
  readonly y: number;
  readonly title: string;
  readonly items: readonly MenuItem[];
}
