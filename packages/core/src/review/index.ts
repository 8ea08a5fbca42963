import { layOut, linesBeside, nearPieces, SAME_PLACE, type Layout } from '../artwork';
import { couple, grow, GrowError, pinsAtNode, replacePiece } from '../grow';
import { analyseLine, media } from '../lines';
import {
  inDesign,
  standings,
  surroundings,
  usedNames,
  type Design,
  type Piece,
  type Place,
  type Project,
  type ResolvedDesign,
  type ResolvedPiece,
  marked,
} from '../network';
import { parts } from '../parts';
import { laminates, metals, stackFieldLabel, type StackField } from '../stack';
import { closeRings } from '../studies';
import { formatComplex, formatQuantity, valueOf } from '../units';
import { reviewEnclosure } from './enclosure';

/** A way to settle a remark: a change of the project. */
export interface Remedy {
  readonly label: string;
  readonly apply: (project: Project) => Project;
}

/** Something a careful colleague would point at. */
export interface Remark {
  readonly id: string;
  readonly severity: 'error' | 'caution';
  readonly place: Place;
  readonly message: string;
  readonly remedies?: readonly Remedy[];
}

const PLACES: Readonly<Record<Place['kind'], (place: Place, name: (id: string) => string) => string>> = {
  stack: (p) => `Board, ${stackFieldLabel((p as { field: StackField }).field).toLowerCase()}`,
  value: (p) => (p as { name: string }).name,
  piece: (p, name) => name((p as { piece: string }).piece),
  sweep: (p) => `Sweep, ${(p as { field: string }).field}`,
  marker: () => 'A marker',
  goal: () => 'The goal',
  enclosure: (p) => `The wall, ${(p as { side: string }).side}`,
  limit: () => 'A limit',
  range: () => 'A range',
  plane: () => 'A Smith chart',
  design: () => 'The design',
};

const length = (x: number): string => formatQuantity(x, 'length', { digits: 3 });

/** A remedy that changes the design. */
const remedy = (label: string, id: string, change: (design: Design, project: Project) => Design): Remedy => ({
  label,
  apply: (project) => inDesign(project, id, (d) => change(d, project)),
});

/** A lumped value further from what theory asks than this share is questioned. */
const FAR = 0.1;

/** Everything that one kind of question is asked with. */
interface Case {
  readonly design: Design;
  readonly resolved: ResolvedDesign;
  readonly layout: Layout;
  readonly around: ReturnType<typeof surroundings>;
  readonly add: (remark: Omit<Remark, 'id' | 'severity'>) => void;
}

const at = (piece: ResolvedPiece, face = ''): Place => ({ kind: 'piece', piece: piece.id, face });

const isLine = (piece: ResolvedPiece): boolean => parts.get(piece.kind)?.line !== undefined;

/** Pins that meet nothing, and pins that meet too much at once. */
function askJoints({ design, resolved, around, add }: Case): void {
  for (const [node, pins] of around.byNode) {
    const [{ piece, pin }] = pins;
    const definition = parts.get(piece.kind);
    if (pins.length === 1) {
      if (definition?.kind === 'port') {
        add({
          place: at(piece),
          message: `${piece.name}: this port meets nothing, so nothing is measured there.`,
        });
        continue;
      }
      const which = piece.nodes.length === 1 ? 'its pin' : `pin ${pin + 1}`;
      add({
        place: at(piece),
        message: `${piece.name}: ${which} dangles; it meets nothing, and a change beyond it cannot be seen.`,
        remedies: [
          remedy('Set a port', design.id, (d) => grow(d, node, 'port').design),
          ...(definition?.bridges
            ? []
            : [remedy('End it open', design.id, (d) => grow(d, node, 'open-end').design)]),
        ],
      });
      continue;
    }
    const copper = pins.filter(({ piece: p }) => p.values && isLine(p));
    if (copper.length > 2)
      add({
        place: at(piece),
        message: `${copper.map(({ piece: p }) => p.name).join(', ')} meet at one point without a junction; a tee or cross says what their joint does.`,
      });
    if (copper.length === 2 && pins.every(({ piece: p }) => isLine(p) || parts.get(p.kind)?.bridges)) {
      const [a, b] = copper.map(
        (c) => parts.get(c.piece.kind)!.widths!(c.piece.values!, c.piece.settings)[c.pin]!,
      );
      if (Math.abs(a - b) > 0.01 * Math.max(a, b))
        add({
          place: at(copper[1].piece, 'width'),
          message: `${copper[0].piece.name} and ${copper[1].piece.name} meet with ${length(a)} and ${length(b)} of width and no step between them.`,
          remedies: [
            remedy('Set a step', design.id, (d) =>
              pinsAtNode(d, node).length > 1 ? grow(d, node, 'step').design : d,
            ),
          ],
        });
    }
  }
  for (const piece of resolved.pieces) {
    if (piece.kind === 'port' || piece.nodes.length < 2) continue;
    if (piece.nodes.length === 2 && piece.nodes[0] === piece.nodes[1])
      add({
        place: at(piece),
        message: `${piece.name}: both its pins are joined to each other, so it does nothing.`,
      });
  }
}

/** Ports that are measured against different impedances, unless that is meant. */
function askPorts({ design, resolved, add }: Case): void {
  const ports = resolved.pieces.filter((p) => p.kind === 'port' && p.values);
  const first = ports.find((p) => p.settings.number === '1');
  if (!first?.values) return;
  const { z } = first.values;
  const meant = new Set(design.pieces.filter((p) => p.marks?.reference === 'own').map((p) => p.id));
  const other = ports.filter(
    ({ id, values }) =>
      !meant.has(id) && Math.hypot(values!.z.re - z.re, values!.z.im - z.im) > 1e-6 * Math.hypot(z.re, z.im),
  );
  if (other.length === 0 || meant.has(first.id)) return;
  const [text] = design.pieces.filter((p) => p.id === first.id).map((p) => p.held.z);
  const change = (d: Design, how: (p: Piece) => Piece): Design => ({
    ...d,
    pieces: d.pieces.map((p) => (other.some((o) => o.id === p.id) ? how(p) : p)),
  });
  add({
    place: at(other[0], 'z'),
    message: `${other.map((p) => p.name).join(', ')}: the reference is ${other.map(({ values }) => formatComplex(values!.z.re, values!.z.im)).join(', ')}, and that of port 1 is ${formatComplex(z.re, z.im)}. Match and levels are measured against different impedances.`,
    remedies: [
      remedy(`Use that of port 1`, design.id, (d) =>
        change(d, (p) => ({ ...p, held: { ...p.held, z: text } })),
      ),
      remedy('It is meant so', design.id, (d) => change(d, (p) => marked(p, { reference: 'own' }))),
    ],
  });
}

/** Charts that look into what is no longer there. */
function askPlanes({ design, resolved, add }: Case): void {
  const lost = (design.plots ?? []).filter(
    (p) => p.show === 'smith' && p.look && !resolved.planes.find((r) => r.plot === p.id)?.look,
  );
  if (lost.length > 0)
    add({
      place: { kind: 'plane', id: lost[0].id },
      message: 'A Smith chart looked into a piece that is gone; it looks from port 1.',
      remedies: [
        remedy('Look from port 1', design.id, (d) => ({
          ...d,
          plots: d.plots?.map((p) => (lost.some((l) => l.id === p.id) ? { ...p, look: undefined } : p)),
        })),
      ],
    });
}

/** What each part asks about itself, its models and the shop. */
function askPieces({ design, resolved, around, add }: Case): void {
  const { stack, f0 } = resolved;
  if (!stack || f0 === undefined) return;
  const said = new Set<string>();
  const marks = new Map(design.pieces.map((p) => [p.id, p.marks]));
  for (const piece of resolved.pieces) {
    const { values } = piece;
    const definition = parts.get(piece.kind);
    if (!values || !definition) continue;
    // What takes its widths from the lines it meets has none of its own to question.
    const widths = definition.fits ? [] : (definition.widths?.(values, piece.settings) ?? []);
    const width = Math.min(...widths.flatMap((w) => w ?? []));
    if (Number.isFinite(width)) {
      const faces = definition.properties.flatMap((p) => p.faces);
      const place = at(piece, faces.find((f) => values[f.name]?.re === width)?.name);
      if (width < stack.minWidth)
        add({
          place,
          message: `${piece.name}: ${length(width)} is narrower than the ${length(stack.minWidth)} this board\u2019s shop etches. A lower impedance or a thicker board widens it.`,
        });
      for (const warning of analyseLine(resolved.medium, stack.substrate, width, f0).warnings) {
        if (said.has(warning.code)) continue;
        said.add(warning.code);
        add({ place, message: `${piece.name}: ${warning.message}` });
      }
    }
    // What takes its gap from what it meets has said nothing of its own.
    if (values.gap && values.gap.re < stack.minGap && (!definition.fits || piece.held.includes('gap')))
      add({
        place: at(piece, 'gap'),
        message: `${piece.name}: ${length(values.gap.re)} is smaller than the ${length(stack.minGap)} this board\u2019s shop etches.${definition.gaps ? ' Interdigitated strips, or two looser couplers in tandem, couple as much with wider gaps.' : ''}`,
      });
    for (const remark of definition.review?.(values, {
      medium: media[resolved.medium],
      substrate: stack.substrate,
      f0,
      settings: piece.settings,
      neighbour: (pin) => around.neighbour(piece, pin),
      setback: (pin) => around.setback(piece, pin),
    }) ?? [])
      add({
        place: at(piece, remark.face),
        message: `${piece.name}: ${remark.message}`,
        remedies:
          remark.face !== '' && piece.held.includes(remark.face) && definition.fits
            ? [
                remedy('Let it fit', design.id, (d) =>
                  replacePiece(d, piece.id, (p) => {
                    const held = { ...p.held };
                    delete held[remark.face];
                    return { ...p, held };
                  }),
                ),
              ]
            : undefined,
      });
    const face = definition.properties[0]?.faces[0]?.name;
    const { theory } = piece;
    if (theory !== undefined && face && values[face] && Math.abs(values[face].re - theory) > FAR * theory) {
      const rule = definition.properties[0].faces[0].rule;
      add({
        place: at(piece, face),
        message: `${piece.name}: ${formatQuantity(values[face].re, rule.kind)} is far from the ${formatQuantity(theory, rule.kind)} that the recipe\u2019s theory asks for.`,
        remedies: [
          remedy(`Use ${formatQuantity(theory, rule.kind)}`, design.id, (d) =>
            replacePiece(d, piece.id, (p) => ({
              ...p,
              held: { ...p.held, [face]: p.marks?.theory ?? p.held[face] },
            })),
          ),
        ],
      });
    }
    const set = Number(marks.get(piece.id)?.heldAt);
    if (values.theta && piece.held.includes('length') && set > 0 && Math.abs(set / f0 - 1) > 1e-6)
      add({
        place: at(piece, 'length'),
        message: `${piece.name}: its length was set for ${formatQuantity(set, 'frequency')}, and the design is at ${formatQuantity(f0, 'frequency')}.`,
        remedies: [
          remedy('Keep its electrical length', design.id, (d) =>
            replacePiece(d, piece.id, (p) => {
              const held = { ...p.held };
              delete held.length;
              const theta = formatQuantity((values.theta.re * set) / f0, 'angle', { digits: 6, typed: true });
              return marked({ ...p, held: { ...held, theta } }, { heldAt: undefined });
            }),
          ),
          remedy('It is meant so', design.id, (d) =>
            replacePiece(d, piece.id, (p) => marked(p, { heldAt: String(f0) })),
          ),
        ],
      });
  }
}

/** A remedy that has no answer here, in words. */
export class RemedyError extends GrowError {}

const closing = (id: string): Remedy =>
  remedy('Close it by lengths', id, (design, project) => {
    const found = closeRings(project, design);
    if (!found)
      throw new RemedyError(
        'No change of the free lengths closes this ring: its turns do not add up, or its lines are feeds, held by expressions or marked to stay.',
      );
    return found.design;
  });

/** Rings that do not close, copper that overlaps or comes too near. */
function askArtwork({ design, resolved, layout, add }: Case): void {
  const { stack } = resolved;
  const nameOf = (id: string) => resolved.pieces.find((p) => p.id === id)?.name ?? id;
  for (const c of layout.closures) {
    const place: Place = { kind: 'piece', piece: c.second, face: c.span === undefined ? 'length' : 'span' };
    if (c.span !== undefined)
      add({
        place,
        message: `${nameOf(c.second)}: the pads it joins are ${length(c.span)} apart, which its span does not bridge.`,
      });
    else if (Math.hypot(c.dx, c.dy) > SAME_PLACE)
      add({
        place,
        message: `The ring does not close: ${nameOf(c.second)} ends ${length(Math.hypot(c.dx, c.dy))} from ${nameOf(c.first)}.`,
        remedies: [closing(design.id)],
      });
    else
      add({
        place: { kind: 'piece', piece: c.second, face: 'turn' },
        message: `The ring closes with a kink of ${formatQuantity(c.angle, 'angle', { digits: 3 })} between ${nameOf(c.first)} and ${nameOf(c.second)}.`,
      });
  }
  if (!stack) return;
  for (const near of nearPieces(resolved, layout, Math.max(stack.minGap, 1e-9))) {
    const place: Place = { kind: 'piece', piece: near.second, face: '' };
    add({
      place,
      message:
        near.distance === 0
          ? `${nameOf(near.first)} and ${nameOf(near.second)} overlap on the copper without being joined.`
          : `${nameOf(near.first)} and ${nameOf(near.second)} come as near as ${length(near.distance)}; this board\u2019s shop etches ${length(stack.minGap)}.`,
    });
  }
}

/** Heights of the board that lines may run side by side over, and how near, before they couple more than a little. */
const BESIDE = { gap: 1, overlap: 2 };
/** Ends that miss one another, widths and lengths that differ by less than this share are one pair's. */
const ALIKE = 0.03;

/** Lines that run beside one another so close that they couple, which no model of single lines sees. */
function askCoupling({ design, resolved, layout, add }: Case): void {
  const { stack, medium } = resolved;
  if (!stack) return;
  const height = stack.substrate.height / media[medium].grounds;
  for (const beside of linesBeside(resolved, layout, BESIDE.gap * height, BESIDE.overlap * height)) {
    const [a, b] = [beside.first, beside.second].map((id) => resolved.pieces.find((p) => p.id === id)!);
    const [p, q] = [a, b].map((piece) => parts.get(piece.kind)!.line!(piece.values!));
    const fits =
      Math.abs(p.width - q.width) < ALIKE * p.width &&
      Math.abs(p.length - q.length) < ALIKE * p.length &&
      beside.offset < ALIKE * p.length;
    const typed = (x: number) => formatQuantity(x, 'length', { digits: 5, typed: true });
    add({
      place: at(a),
      message: `${a.name} and ${b.name} run ${length(beside.gap)} apart over ${length(beside.overlap)} and couple, which single lines do not show.${fits ? '' : ' As two lines of one width and length, end to end, they would make coupled lines.'}`,
      remedies: fits
        ? [
            remedy('Make them coupled lines', design.id, (d) =>
              couple(d, a.id, b.id, {
                width: typed(p.width),
                gap: typed(beside.gap),
                length: typed(p.length),
                side: beside.side,
                reversed: beside.reversed,
              }),
            ),
          ]
        : undefined,
    });
  }
}

/** A conductivity that is not the one the laminate comes with, or none of a known metal. */
function askMetal({ design, add }: Case, project: Project): void {
  const stack = project.stacks.find((s) => s.id === design.stack);
  if (!stack) return;
  const own = valueOf(stack.conductivity);
  const shipped = laminates.find((l) => l.name === stack.name);
  const others = project.stacks.find((s) => s.id !== stack.id && s.name === stack.name);
  const usual = others?.conductivity ?? shipped?.conductivity;
  const expected = usual === undefined ? undefined : valueOf(usual);
  if (own === undefined) return;
  const named = (sigma: number) =>
    metals.find((m) => Math.abs(valueOf(m.conductivity)! / sigma - 1) < 0.03)?.name;
  const place: Place = { kind: 'stack', field: 'conductivity' };
  const use = (text: string, label: string): Remedy => ({
    label,
    apply: (p) => ({
      ...p,
      stacks: p.stacks.map((s) => (s.id === stack.id ? { ...s, conductivity: text } : s)),
    }),
  });
  if (usual !== undefined && expected !== undefined && Math.abs(own / expected - 1) > 0.01)
    add({
      place,
      message: `Board: its metal (${stack.conductivity}${named(own) ? `, ${named(own)}` : ''}) is not the ${named(expected) ?? usual} that ${stack.name} comes with; losses differ.`,
      remedies: [use(usual, `Use ${named(expected) ?? usual}`)],
    });
  else if (named(own) === undefined && (own < 1e6 || own > 7e7))
    add({
      place,
      message: `Board: ${stack.conductivity} is no metal\u2019s conductivity; copper has 5.8e7 S/m.`,
      remedies: [use('5.8e7 S/m', 'Use copper')],
    });
}

/** A sweep may reach so far beyond a band, as a share of its end, and nobody asks. */
const OFF_BAND = 0.01;

/** Pieces that stand on solved data which says little of them, or nothing. */
function askBacked({ design, resolved, add }: Case): void {
  const beyond = new Map<string, { piece: ResolvedPiece; from: number; to: number }>();
  for (const { backed, pieces: own, place } of standings(resolved)) {
    const { weight, reasons } = place;
    if (own.some((p) => !p.values)) continue;
    const freq = backed.block.freq;
    const [from, to] = [freq[0], freq[freq.length - 1]];
    const { sweep } = resolved;
    if (weight > 0 && sweep && (sweep.start < (1 - OFF_BAND) * from || sweep.stop > (1 + OFF_BAND) * to))
      beyond.set(backed.block.name, { piece: own[0], from, to });
    if (reasons.length === 0) continue;
    const names =
      own.length > 3 ? `${own[0].name} and ${own.length - 1} more` : own.map((p) => p.name).join(', ');
    const counts =
      weight === 0
        ? 'so that models stand for it alone'
        : `so that what was solved counts ${Math.round(100 * weight)} % and models stand for the rest`;
    add({
      place: at(own[0]),
      message: `${names}: solved data is left behind, ${counts}: ${reasons.join('; ')}. Solve it again over what it has become, or take it off.`,
      remedies: [
        remedy('Take it off', design.id, (d) => ({
          ...d,
          backed: d.backed?.filter((b) => b.pieces.join() !== backed.pieces.join()),
        })),
      ],
    });
  }
  for (const [name, { piece, from, to }] of beyond)
    add({
      place: at(piece),
      message: `${name}: solved from ${formatQuantity(from, 'frequency', { digits: 4 })} to ${formatQuantity(to, 'frequency', { digits: 4 })}, and the sweep reaches beyond; there its pieces are what models make of them.`,
    });
}

/**
 * Everything questionable about a design, always in the same order: its errors, pins, pieces, copper, board, values.
 * @param layout its artwork, where it is known already
 */
export function review(
  project: Project,
  design: Design,
  resolved: ResolvedDesign,
  layout: Layout = layOut(resolved),
): Remark[] {
  const nameOf = (id: string) => resolved.pieces.find((p) => p.id === id)?.name ?? id;
  const remarks: Remark[] = [];
  const push = (severity: Remark['severity'], remark: Omit<Remark, 'id' | 'severity'>) => {
    const base = `${remark.place.kind}:${remark.message}`;
    if (!remarks.some((r) => r.id === base)) remarks.push({ id: base, severity, ...remark });
  };
  for (const p of resolved.problems)
    if (!p.follows)
      push('error', {
        place: p.place,
        message: `${PLACES[p.place.kind](p.place, nameOf)}: ${p.message}.`,
      });
  const around = surroundings(resolved.pieces);
  const about: Case = { design, resolved, layout, around, add: (remark) => push('caution', remark) };
  askJoints(about);
  askPorts(about);
  askPlanes(about);
  askPieces(about);
  askArtwork(about);
  askCoupling(about);
  for (const remark of reviewEnclosure(resolved, layout)) push('caution', remark);
  askMetal(about, project);
  askBacked(about);
  const used = usedNames(design);
  for (const v of design.values)
    if (v.name !== 'f0' && !used.has(v.name))
      push('caution', {
        place: { kind: 'value', name: v.name },
        message: `${v.name}: nothing uses this value.`,
        remedies: [
          remedy('Remove it', design.id, (d) => ({
            ...d,
            values: d.values.filter((x) => x.name !== v.name),
          })),
        ],
      });
  return remarks;
}
