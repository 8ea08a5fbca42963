import { enclosureSides, type Design, type Piece, type Project } from '../network';
import { parts, propertiesOf } from '../parts';
import { boardSpreads, stackFieldLabel } from '../stack';

/** One difference between two states of a design, in words. */
export type Difference = string;

const faceName = ({ kind, settings }: Piece, face: string): string => {
  const definition = parts.get(kind);
  for (const property of definition ? propertiesOf(definition, settings) : [])
    for (const f of property.faces) if (f.name === face) return f.label.toLowerCase();
  return face;
};
const quoted = (text: string | undefined): string => (text === undefined ? 'free' : text);

/** What differs between two states of one design: values, pieces, how they are joined, board and sweep. */
export function designDifferences(before: Design, after: Design): Difference[] {
  const out: Difference[] = [];
  const value = (d: Design) => new Map(d.values.map((v) => [v.name, v.value]));
  const [was, is] = [value(before), value(after)];
  const spread = new Map(before.values.map((v) => [v.name, v.spread]));
  for (const [name, text] of is)
    if (!was.has(name)) out.push(`${name} is new: ${text}`);
    else if (was.get(name) !== text) out.push(`${name}: ${was.get(name)} \u2192 ${text}`);
  for (const v of after.values)
    if (was.has(v.name) && spread.get(v.name) !== v.spread)
      out.push(`tolerance of ${v.name}: ${spread.get(v.name) || 'none'} \u2192 ${v.spread || 'none'}`);
  for (const name of was.keys()) if (!is.has(name)) out.push(`${name} is gone`);
  const pieces = new Map(before.pieces.map((p) => [p.id, p]));
  for (const p of after.pieces) {
    const old = pieces.get(p.id);
    if (!old) {
      out.push(`${p.name} is new`);
      continue;
    }
    if (old.name !== p.name) out.push(`${old.name} is now called ${p.name}`);
    if (old.kind !== p.kind)
      out.push(
        `${p.name}: ${parts.get(old.kind)?.name ?? old.kind} \u2192 ${parts.get(p.kind)?.name ?? p.kind}`,
      );
    for (const face of new Set([...Object.keys(old.held), ...Object.keys(p.held)]))
      if (old.held[face] !== p.held[face])
        out.push(`${p.name}, ${faceName(p, face)}: ${quoted(old.held[face])} \u2192 ${quoted(p.held[face])}`);
    const [before, now] = [old, p].map(
      ({ settings, marks }): Readonly<Record<string, string | undefined>> => ({
        ...settings,
        retune: marks?.retune,
        reference: marks?.reference,
        theory: marks?.theory,
      }),
    );
    for (const name of new Set([...Object.keys(before), ...Object.keys(now)]))
      if (before[name] !== now[name])
        out.push(`${p.name}, ${name}: ${quoted(before[name])} \u2192 ${quoted(now[name])}`);
    if (old.nodes.join() !== p.nodes.join()) out.push(`${p.name} is joined elsewhere`);
  }
  for (const p of before.pieces) if (!after.pieces.some((q) => q.id === p.id)) out.push(`${p.name} is gone`);
  if (before.medium !== after.medium) out.push(`medium: ${before.medium} \u2192 ${after.medium}`);
  if (before.name !== after.name) out.push(`the name: ${before.name} \u2192 ${after.name}`);
  for (const field of ['start', 'stop', 'points'] as const)
    if (before.sweep[field] !== after.sweep[field])
      out.push(`sweep, ${field}: ${before.sweep[field]} \u2192 ${after.sweep[field]}`);
  if (!before.enclosure !== !after.enclosure)
    out.push(after.enclosure ? 'it stands within side walls' : 'its side walls are gone');
  else
    for (const side of enclosureSides)
      if (before.enclosure?.[side] !== after.enclosure?.[side])
        out.push(`wall, ${side}: ${before.enclosure?.[side]} \u2192 ${after.enclosure?.[side]}`);
  const stands = (d: Design) =>
    new Map((d.backed ?? []).flatMap((b) => b.pieces.map((id): [string, string] => [id, b.data])));
  const [stood, stand] = [stands(before), stands(after)];
  for (const p of after.pieces)
    if (stood.get(p.id) !== stand.get(p.id))
      out.push(
        `${p.name} ${stand.has(p.id) ? (stood.has(p.id) ? 'stands on other solved data' : 'stands on solved data') : 'no longer stands on solved data'}`,
      );
  if (before.goal !== after.goal) out.push(`goal: ${before.goal} \u2192 ${after.goal}`);
  return out;
}

/** What differs in the board that a design stands on. */
export function boardDifferences(before: Project, after: Project, design: Design, was: Design): Difference[] {
  const a = before.stacks.find((s) => s.id === was.stack);
  const b = after.stacks.find((s) => s.id === design.stack);
  if (!a || !b) return [];
  const out: Difference[] = [];
  for (const key of Object.keys(b) as (keyof typeof b)[])
    if (key !== 'id' && key !== 'spread' && a[key] !== b[key])
      out.push(
        `board, ${stackFieldLabel(key).toLowerCase()}: ${a[key] || 'none'} \u2192 ${b[key] || 'none'}`,
      );
  for (const { id, label } of boardSpreads)
    if (a.spread?.[id] !== b.spread?.[id])
      out.push(`tolerance of ${label}: ${a.spread?.[id] || 'none'} \u2192 ${b.spread?.[id] || 'none'}`);
  return out;
}

/** What differs in how two states are made: panels and the shop, a sentence each. */
export function makingDifferences(before: Project, after: Project): string[] {
  const was = new Map(before.panels?.map((p) => [p.id, p]));
  const is = new Map(after.panels?.map((p) => [p.id, p]));
  const out: string[] = [];
  for (const [id, panel] of is) {
    const old = was.get(id);
    if (!old) out.push(`panel \u201C${panel.name}\u201D is new`);
    else if (JSON.stringify(old) !== JSON.stringify(panel)) {
      const placed = panel.placed.length - old.placed.length;
      out.push(
        `panel \u201C${panel.name}\u201D: ${placed === 0 ? 'placed or made otherwise' : `${Math.abs(placed)} ${Math.abs(placed) === 1 ? 'design' : 'designs'} ${placed > 0 ? 'more' : 'fewer'}`}`,
      );
    }
  }
  for (const [id, panel] of was) if (!is.has(id)) out.push(`panel \u201C${panel.name}\u201D is gone`);
  if (JSON.stringify(before.shop) !== JSON.stringify(after.shop)) out.push('the shop differs');
  return out;
}
