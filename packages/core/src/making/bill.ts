import { writeCsv } from '../formats';
import type { BoardPlan } from './board';

/** The bill of what is mounted on a board as CSV: one row for parts that are alike, then how many and where they stand (mm). */
export function writeBill({ mounted }: BoardPlan): string {
  const rows = new Map<string, BoardPlan['mounted'][number][]>();
  for (const part of mounted) {
    const key = `${part.what}\n${part.value}`;
    rows.set(key, [...(rows.get(key) ?? []), part]);
  }
  const list = [...rows.values()];
  const column = (name: string, of: (parts: (typeof list)[number]) => string | number) => ({
    name,
    values: list.map(of),
  });
  const mm = (v: number) => (v * 1e3).toFixed(3);
  const each = (of: (part: BoardPlan['mounted'][number]) => string) => (parts: (typeof list)[number]) =>
    parts.map(of).join('; ');
  return writeCsv([
    column('part', ([p]) => p.what),
    column('value', ([p]) => p.value),
    column('count', (parts) => parts.length),
    column(
      'design',
      each((p) => p.design),
    ),
    column(
      'piece',
      each((p) => p.name),
    ),
    column(
      'x_mm',
      each((p) => mm(p.x)),
    ),
    column(
      'y_mm',
      each((p) => mm(p.y)),
    ),
    column(
      'turned_deg',
      each((p) => String((Math.round((p.angle * 180) / Math.PI) + 360) % 360)),
    ),
  ]);
}
