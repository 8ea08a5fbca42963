import type { BoardFormat } from '../bridge/making';

/** What boards are written as, as menus know it before a writer is loaded. */
export const boardFiles: readonly {
  readonly id: BoardFormat;
  readonly label: string;
  readonly note: string;
  /** It is of one design, not of a panel. */
  readonly alone?: true;
}[] = [
  { id: 'gerber', label: 'Gerber and drill files', note: 'zip' },
  { id: 'dxf', label: 'DXF', note: 'mm' },
  { id: 'gdsii', label: 'GDSII', note: '1 nm' },
  { id: 'svg', label: 'SVG, scale 1', note: 'mm' },
  { id: 'bill', label: 'Mounted parts', note: 'CSV' },
  { id: 'copper', label: 'Copper to be solved', note: 'JSON', alone: true },
];
