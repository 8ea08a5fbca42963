import { describe, expect, it } from 'vitest';
import { grow, replacePiece } from '../src/grow';
import { emptyDesign, resolveDesign, type Design, type Project } from '../src/network';
import { review } from '../src/review';
import { laminates } from '../src/stack';
import { made, withDesign } from './helpers';

const remarks = (project: Project) => {
  const [design] = project.designs;
  return review(project, design, resolveDesign(project, design));
};
const hold = (design: Design, piece: string, held: Record<string, string>) =>
  replacePiece(design, piece, (p) => ({ ...p, held }));

/** What is provoked, the words it is said in, the label of the remedy that settles it. */
const { project, design } = made('wilkinson');
const branch = made('branch-line');
const line = (() => {
  let at = grow(emptyDesign('d', laminates[0].id, 'microstrip', '10 GHz'), undefined, 'port');
  at = grow(at.design, at.node, 'line');
  return { ...branch.project, designs: [at.design] };
})();
const elsewhere = withDesign(
  branch.project,
  replacePiece(branch.design, 'feed1', (p) => ({
    ...p,
    held: { z0: 'z0', length: '4 mm' },
    marks: { heldAt: '5.8e9' },
  })),
);
const cases: [string, Project, RegExp, string?][] = [
  ['a dangling pin, ended open', line, /line: pin 2 dangles/, 'End it open'],
  ['a dangling pin, given a port', line, /line: pin 2 dangles/, 'Set a port'],
  [
    'a resistor far from theory',
    withDesign(project, hold(design, 'isolation', { r: '50 ohm', span: 'gap' })),
    /resistor: 50.* is far from the 100/,
    'Use 100\u2009\u03A9',
  ],
  [
    'a junction whose arm does not fit',
    withDesign(branch.project, hold(branch.design, 'tee1', { w3: '0.3 mm' })),
    /tee at port 1: arm 3 does not fit/,
    'Let it fit',
  ],
  [
    'a length held for another frequency',
    elsewhere,
    /feed 1: its length was set for 5.8.GHz/,
    'Keep its electrical length',
  ],
  ['the same, meant so', elsewhere, /set for 5.8/, 'It is meant so'],
  [
    'two widths that meet without a step',
    withDesign(branch.project, {
      ...branch.design,
      pieces: [
        ...branch.design.pieces.map((p) => (p.id === 'port1' ? { ...p, nodes: ['p0'] } : p)),
        {
          id: 'more',
          name: 'more',
          kind: 'line',
          held: { z0: '80 ohm', theta: '30 deg' },
          nodes: ['p0', 'p1'],
        },
      ],
    }),
    /no step between them/,
    'Set a step',
  ],
  [
    'an unused value',
    withDesign(project, { ...design, values: [...design.values, { name: 'spare', value: '1 mm' }] }),
    /spare: nothing uses this value/,
    'Remove it',
  ],
  [
    'another metal than the laminate\u2019s',
    { ...project, stacks: [{ ...laminates[0], conductivity: '4.1e7 S/m' }] },
    /gold.*is not the copper/,
    'Use copper',
  ],
  [
    'no metal at all',
    { ...project, stacks: [{ ...laminates[0], name: 'my own', conductivity: '5.8e5 S/m' }] },
    /no metal\u2019s conductivity/,
    'Use copper',
  ],
  [
    'a ring that does not close',
    withDesign(
      branch.project,
      hold(branch.design, 'through43', { z0: 'zs', theta: '90 deg', trim: '0.2 mm' }),
    ),
    /The ring does not close: .* ends 0\.2.mm from/,
    'Close it by lengths',
  ],
  [
    'a mounted part that does not reach',
    withDesign(project, hold(design, 'isolation', { r: '2*z0', span: '1 mm' })),
    /pads it joins are .* apart/,
  ],
  [
    'copper that overlaps',
    withDesign(
      project,
      hold(hold(design, 'feed2', { z0: 'z0', length: '9 mm', turn: '-230 deg' }), 'feed3', {
        z0: 'z0',
        length: '9 mm',
        turn: '230 deg',
      }),
    ),
    /overlap on the copper without being joined/,
  ],
  [
    'a port that measures nothing',
    withDesign(project, {
      ...design,
      pieces: design.pieces.map((p) => (p.id === 'port3' ? { ...p, nodes: ['away'] } : p)),
    }),
    /port 3: this port meets nothing/,
  ],
  [
    'lines that meet without a junction',
    withDesign(project, {
      ...design,
      pieces: design.pieces.map((p) =>
        p.id === 'tee1'
          ? { ...p, kind: 'joint', held: {}, nodes: ['in', 'in', 'x'], settings: { ways: '3' } }
          : { ...p, nodes: p.nodes.map((n) => (n === 'up' || n === 'down' ? 'in' : n)) },
      ),
    }),
    /meet at one point without a junction/,
  ],
  [
    'a step too large for its model',
    withDesign(branch.project, {
      ...branch.design,
      pieces: [
        ...branch.design.pieces,
        { id: 's', name: 'big step', kind: 'step', held: { w1: '5 mm', w2: '0.125 mm' }, nodes: ['x', 'y'] },
      ],
    }),
    /step of 40 to 1/,
  ],
  [
    'a gap the shop cannot etch',
    withDesign(branch.project, {
      ...branch.design,
      pieces: [
        ...branch.design.pieces,
        { id: 'g', name: 'slot', kind: 'gap', held: { gap: '30 um' }, nodes: ['x', 'p1'] },
      ],
    }),
    /slot: 30.*smaller than the/,
  ],
];

describe('review', () => {
  it.each(cases)('points out %s', (_name, provoked, words, label) => {
    const found = remarks(provoked).find((r) => words.test(r.message));
    expect(
      found,
      remarks(provoked)
        .map((r) => r.message)
        .join('\n'),
    ).toBeDefined();
    if (label === undefined) return;
    const remedy = found!.remedies?.find((r) => r.label === label);
    expect(remedy, found!.remedies?.map((r) => r.label).join()).toBeDefined();
    const settled = remedy!.apply(provoked);
    expect(remarks(settled).filter((r) => words.test(r.message))).toEqual([]);
    expect(settled.designs[0].id).toBe(provoked.designs[0].id);
  });

  it('names each question once, in the same order each time', () => {
    const twice = remarks(line);
    expect(new Set(twice.map((r) => r.id)).size).toBe(twice.length);
    expect(remarks(line).map((r) => r.id)).toEqual(twice.map((r) => r.id));
  });
});
