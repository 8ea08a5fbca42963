import { usualShop, type ShopField } from '@ditch/core/making';
import {
  newId,
  type Panel,
  type PanelFence,
  type PanelLaunches,
  type PlacedDesign,
  type Project,
} from '@ditch/core/network';
import { formatQuantity } from '@ditch/core/units';
import { edit } from '../../store/session';

/** Named, undoable changes of panels and of the shop. */

export const shop = (project: Project) => project.shop ?? usualShop;

export const setShop = (field: ShopField | 'name', text: string): void =>
  edit(
    field === 'name' ? 'name the shop' : `change the shop: ${field}`,
    (p) => ({ ...p, shop: { ...shop(p), [field]: text } }),
    `shop:${field}`,
  );

/** Whether copper is added around holes. */
export const setLands = (on: boolean): void =>
  edit(on ? 'add lands around holes' : 'leave holes as drawn', (p) => ({
    ...p,
    shop: { ...shop(p), lands: on ? true : undefined },
  }));

export const changePanel = (id: string, label: string, change: (panel: Panel) => Panel, merge = ''): void =>
  edit(
    label,
    (p) => ({ ...p, panels: p.panels?.map((panel) => (panel.id === id ? change(panel) : panel)) ?? [] }),
    merge && `${id}:${merge}`,
  );

/** As many as a project file takes. */
export const MOST_PANELS = 100;
export const MOST_PLACED = 100;

/** A further panel, empty. @returns its id */
export function addPanel(project: Project): string {
  const names = new Set(project.panels?.map((p) => p.name));
  let n = 1;
  while (names.has(`panel ${n}`)) n++;
  const panel: Panel = {
    id: newId(),
    name: `panel ${n}`,
    width: '',
    height: '',
    margin: '3 mm',
    placed: [],
    letters: '1 mm',
  };
  edit(`add ${panel.name}`, (p) => ({ ...p, panels: [...(p.panels ?? []), panel] }));
  return panel.id;
}

export const removePanel = (panel: Panel): void =>
  edit(`remove \u201C${panel.name}\u201D`, (p) => ({
    ...p,
    panels: p.panels?.filter((one) => one.id !== panel.id) ?? [],
  }));

export function copyPanel(panel: Panel): string {
  const id = newId();
  edit(`copy \u201C${panel.name}\u201D`, (p) => ({
    ...p,
    panels: [...(p.panels ?? []), { ...panel, id, name: `${panel.name} (copy)` }],
  }));
  return id;
}

/** A length as it is typed, in the unit that lengths are shown in. */
export const lengthText = (v: number): string =>
  formatQuantity(Math.round(v * 1e9) / 1e9, 'length', { digits: 8, typed: true });

/** The same as one reads it. */
export const lengthShown = (v: number): string => formatQuantity(v, 'length', { digits: 4 });

export const changePlaced = (
  panel: string,
  placed: string,
  label: string,
  change: Partial<PlacedDesign>,
  merge = '',
): void =>
  changePanel(
    panel,
    label,
    (p) => ({ ...p, placed: p.placed.map((one) => (one.id === placed ? { ...one, ...change } : one)) }),
    merge,
  );

export const putDesign = (panel: string, design: string, name: string, x: number, y: number): string => {
  const id = newId();
  changePanel(panel, `put ${name} on it`, (p) => ({
    ...p,
    placed: [...p.placed, { id, design, x: lengthText(x), y: lengthText(y) }],
  }));
  return id;
};

export const takeOff = (panel: string, placed: string, name: string): void =>
  changePanel(panel, `take ${name} off`, (p) => ({
    ...p,
    placed: p.placed.filter((one) => one.id !== placed),
  }));

/** By a quarter to the left. */
export const turnPlaced = (panel: string, placed: PlacedDesign, name: string): void => {
  const turns = (((placed.turns ?? 0) + 1) % 4) as 0 | 1 | 2 | 3;
  changePanel(panel, `turn ${name}`, (p) => ({
    ...p,
    placed: p.placed.map((one) =>
      one.id === placed.id ? { ...one, turns: turns === 0 ? undefined : turns } : one,
    ),
  }));
};

/** What is put on a panel beside its designs, as it begins. */
export const BEGINNINGS = {
  letters: '1 mm',
  marks: '1 mm',
  launches: { gap: '0.4 mm', width: '2 mm', length: '3 mm', hole: '0.5 mm' } satisfies PanelLaunches,
  fence: {
    sides: ['left', 'right', 'front', 'back'],
    hole: '0.5 mm',
    pitch: '1.5 mm',
    inset: '1 mm',
  } satisfies PanelFence,
} as const;

export function toggleExtra(panel: Panel, name: keyof typeof BEGINNINGS): void {
  const has = panel[name] !== undefined;
  changePanel(panel.id, `${has ? 'take away' : 'add'} ${name}`, (p) => ({
    ...p,
    [name]: has ? undefined : BEGINNINGS[name],
  }));
}
