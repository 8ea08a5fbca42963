import { namesIn } from '../units';
import { marked, type Design, type Enclosure, type NamedValue, type Piece } from './document';

/** The unit behind "in" of a formula on results is no expression of the design. */
const inFormula = (text: string, change: (text: string) => string): string => {
  const at = text.lastIndexOf(' in ');
  return at < 0 ? text : change(text.slice(0, at)) + text.slice(at);
};

const mapTexts = (
  texts: Readonly<Record<string, string>>,
  change: (text: string) => string,
): Record<string, string> =>
  Object.fromEntries(Object.entries(texts).map(([name, text]) => [name, change(text)]));

/** A piece with every expression in it changed. */
export function mapPiece(piece: Piece, change: (text: string) => string): Piece {
  const { theory, asked } = piece.marks ?? {};
  const held = { ...piece, held: mapTexts(piece.held, change) };
  return theory === undefined && asked === undefined
    ? held
    : marked(held, {
        ...(theory !== undefined && { theory: change(theory) }),
        ...(asked && { asked: mapTexts(asked, change) }),
      });
}

/** The design with every expression in it changed: values, faces, theory, attempts, sweep, markers, goal, walls, ranges, plots. */
export function mapExpressions(design: Design, change: (text: string) => string): Design {
  const state = <T extends { readonly values: readonly NamedValue[]; readonly pieces: readonly Piece[] }>(
    at: T,
  ): T => ({
    ...at,
    values: at.values.map((v) => ({ ...v, value: change(v.value) })),
    pieces: at.pieces.map((p) => mapPiece(p, change)),
  });
  return {
    ...state(design),
    ...(design.attempts && { attempts: design.attempts.map(state) }),
    sweep: { ...design.sweep, start: change(design.sweep.start), stop: change(design.sweep.stop) },
    markers: design.markers.map((m) => ({ ...m, freq: change(m.freq) })),
    goal: change(design.goal),
    ...(design.enclosure && {
      enclosure: mapTexts(design.enclosure, change) as Enclosure,
    }),
    ...(design.ranges && {
      ranges: design.ranges.map((r) => ({ ...r, from: change(r.from), to: change(r.to) })),
    }),
    ...(design.plots && {
      plots: design.plots.map((p) => ({
        ...p,
        ...(p.formulas && { formulas: p.formulas.map((f) => inFormula(f, change)) }),
        ...(p.limits && {
          limits: p.limits.map((l) => ({ ...l, from: change(l.from), to: change(l.to) })),
        }),
        ...(p.reference !== undefined && { reference: change(p.reference) }),
      })),
    }),
  };
}

/** All names that expressions lead to, through the named values of a design. */
export function namesBehind(design: Pick<Design, 'values'>, texts: Iterable<string>): Set<string> {
  const values = new Map(design.values.map((v) => [v.name, v.value]));
  const found = new Set<string>();
  const waiting = [...texts].flatMap(namesIn);
  for (let name = waiting.pop(); name !== undefined; name = waiting.pop()) {
    if (found.has(name)) continue;
    found.add(name);
    waiting.push(...namesIn(values.get(name) ?? ''));
  }
  return found;
}

/** Names that a design's expressions use; states kept aside do not count. */
export function usedNames(design: Design): Set<string> {
  const names = new Set<string>();
  mapExpressions({ ...design, attempts: undefined }, (text) => {
    for (const name of namesIn(text)) names.add(name);
    return text;
  });
  return names;
}

/**
 * A text with named values called otherwise, all at once. Only where the text means those values: units, functions and
 * longer names stay, and what cannot be read stays as it is.
 */
export function renamedIn(text: string, renamed: ReadonlyMap<string, string>): string {
  const names = new Set(namesIn(text));
  if (![...renamed.keys()].some((name) => names.has(name))) return text;
  return text.replace(/(?<![\w.])[A-Za-z_]\w*(?!\w*\s*\()/g, (word) =>
    names.has(word) ? (renamed.get(word) ?? word) : word,
  );
}

/** The design with a named value called otherwise, everywhere. */
export function renameIn(design: Design, from: string, to: string): Design {
  const named = mapExpressions(design, (text) => renamedIn(text, new Map([[from, to]])));
  const called = (values: readonly NamedValue[]) =>
    values.map((v) => (v.name === from ? { ...v, name: to } : v));
  const key = `value:${from}`;
  const movedKey = (k: string): string =>
    k === key || k.startsWith(`${key}:`) ? `value:${to}${k.slice(key.length)}` : k;
  return {
    ...named,
    values: called(named.values),
    ...(named.attempts && { attempts: named.attempts.map((a) => ({ ...a, values: called(a.values) })) }),
    ...(named.strip && { strip: named.strip.map(movedKey) }),
    ...(named.ranges && { ranges: named.ranges.map((r) => ({ ...r, key: movedKey(r.key) })) }),
    ...(named.family && { family: named.family.map((a) => ({ ...a, key: movedKey(a.key) })) }),
  };
}
