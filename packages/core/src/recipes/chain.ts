import type { NamedValue, Piece } from '../network';
import { cx, type Complex } from '../numeric';
import {
  partValue,
  preferred,
  preferredSeries,
  seenThrough,
  sectionAtCentre,
  shuntSusceptance,
  type Link,
  type Rung,
} from '../theory';
import { formatNumber, formatQuantity } from '../units';
import { RecipeError, type RecipeContext, type RecipeField, type RecipeInputs } from './contract';
import { readLoad, type Load } from './load';
import { FEED, finished, frequencyRule, ohm, ratioRule, read, resistanceRule, Sketch } from './shared';

const EXACT = 'exact';
/** What values may be: exact, or of a series. */
const SERIES: readonly string[] = [EXACT, ...preferredSeries.slice(2, 6).map((n) => `e${n}`)];
export const partFields: readonly RecipeField[] = [
  {
    name: 'values',
    label: 'Values',
    help: 'Exact values match exactly; those of an E series can be bought, and the parts after a rounded one make up for it as far as they can.',
    initial: EXACT,
    type: 'choice',
    options: SERIES.map((id) => ({ id, label: id === EXACT ? 'Exact' : id.toUpperCase() })),
  },
  {
    name: 'qCoil',
    label: 'Q of coils',
    help: 'At the design frequency. Loss shows at the modelled level.',
    initial: '40',
    type: 'quantity',
    rule: ratioRule,
  },
  {
    name: 'qCapacitor',
    label: 'Q of capacitors',
    help: 'At the design frequency. Loss shows at the modelled level.',
    initial: '100',
    type: 'quantity',
    rule: ratioRule,
  },
];

/** A place on the way from the load to the source: what one sees there, ohm, and the name that stands for it. */
export interface Station {
  readonly z: Complex;
  readonly name: string;
}

interface Mounted {
  readonly number: number;
  readonly way: 'series' | 'shunt';
  readonly kind: 'capacitor' | 'inductor';
  /** F or H. */
  readonly value: number;
}

export const WORDS = { capacitor: 'capacitor', inductor: 'coil' } as const;

/** Works its way from the load to the source: the impedances in numbers, the same as expressions, and the pieces. */
export class Chain {
  readonly values: NamedValue[];
  readonly mounted: Mounted[] = [];
  readonly rungs: Rung[] = [];
  readonly f0: number;
  readonly z0: number;
  readonly load: Load;
  private readonly w: number;
  private readonly series: number | undefined;
  private readonly q: { readonly capacitor: number; readonly inductor: number };
  private readonly qualities: readonly (NamedValue & { readonly of: Mounted['kind'] })[];
  private readonly stretches: ((sketch: Sketch, near: string, far: string) => void)[] = [];
  here: Station;

  constructor(inputs: RecipeInputs, context: RecipeContext) {
    this.f0 = read('freq', inputs.freq, frequencyRule).re;
    this.z0 = read('z0', inputs.z0, resistanceRule).re;
    this.load = readLoad(inputs, context, this.f0);
    this.w = 2 * Math.PI * this.f0;
    if (!SERIES.includes(inputs.values))
      throw new RecipeError('values', `must be one of ${SERIES.join(', ')}`);
    this.series = inputs.values === EXACT ? undefined : Number(inputs.values.slice(1));
    this.q = {
      inductor: read('qCoil', inputs.qCoil, ratioRule).re,
      capacitor: read('qCapacitor', inputs.qCapacitor, ratioRule).re,
    };
    this.values = [
      { name: 'f0', value: inputs.freq, note: 'design' },
      { name: 'z0', value: inputs.z0, note: 'source' },
      this.load.value,
    ];
    this.qualities = [
      { of: 'inductor', name: 'qcoil', value: inputs.qCoil, note: 'quality of coils' },
      { of: 'capacitor', name: 'qcap', value: inputs.qCapacitor, note: 'quality of capacitors' },
    ];
    this.here = { z: this.load.z, name: 'zl' };
  }

  /** A name for what one sees, with the expression that it is. */
  named(name: string, z: Complex, value: string, note: string): Station {
    this.values.push({ name, value, note });
    return { z, name };
  }

  /** A line on the way. */
  line(
    station: string,
    id: string,
    name: string,
    held: Readonly<Record<string, string>>,
    role: string,
    link: Link,
    angle: string,
  ): void {
    const { here } = this;
    this.here = this.named(
      station,
      seenThrough(here.z, link.z0, link.theta),
      `seen(${here.name}, ${held.z0}, ${angle})`,
      `behind the ${name}`,
    );
    this.rungs.push({ way: 'link', link });
    this.stretches.push((sketch, near, far) => sketch.add('line', id, name, [near, far], held, { role }));
  }

  /** A part that makes `to` of what is here, as nearly as its series lets it. */
  part(way: 'series' | 'shunt', to: Station): void {
    const { here, w } = this;
    const number = this.mounted.length + 1;
    const added = way === 'series' ? to.z.im - here.z.im : shuntSusceptance(here.z, to.z);
    const kind = added >= 0 === (way === 'series') ? 'inductor' : 'capacitor';
    const exact = partValue(way, kind, here.z, to.z, w);
    const unit = kind === 'capacitor' ? 1e12 : 1e9;
    const value = this.series === undefined ? exact : preferred(exact * unit, this.series) / unit;
    const letter = kind === 'capacitor' ? 'c' : 'l';
    const name = `${letter}${number}`;
    const asked = `${way}${letter}(${here.name}, ${to.name})`;
    const theory = this.series === undefined ? asked : `preferred(${asked}, ${this.series})`;
    this.values.push({
      name,
      value: theory,
      note: `${way} ${WORDS[kind]}`,
    });
    const reactance = kind === 'capacitor' ? -1 / (w * value) : w * value;
    this.rungs.push({ way, x: reactance, resistance: Math.abs(reactance) / this.q[kind] });
    this.mounted.push({ number, way, kind, value });
    const id = `part${number}`;
    const held = { [letter]: name, q: kind === 'capacitor' ? 'qcap' : 'qcoil' };
    const rest: Pick<Piece, 'role' | 'marks'> = { role: 'part', marks: { theory } };
    const label = `${way} ${WORDS[kind]}${this.mounted.filter((m) => m.way === way && m.kind === kind).length > 1 ? ` ${number}` : ''}`;
    this.stretches.push((sketch, near, far) => {
      if (way === 'series') {
        sketch.add(kind, id, label, [near, far], held, rest);
        return;
      }
      sketch
        .tee(`tee${number}`, [near, far, `s${number}`], number === 1 ? 'left' : 'right', `tee at ${label}`)
        .add(kind, id, label, [`s${number}`, `g${number}`], held, rest)
        .add('via', `via${number}`, `via of ${label}`, [`g${number}`]);
    });
    if (this.series === undefined) {
      this.here = to;
      return;
    }
    // A rounded part leaves what it leaves; the next one starts from there.
    const term = `2j*pi*f0*${name}`;
    const z: Complex = { re: 0, im: reactance };
    const [made, text] =
      way === 'series'
        ? [cx.add(here.z, z), `${here.name} + ${kind === 'capacitor' ? `1/(${term})` : term}`]
        : [
            cx.div(cx.mul(here.z, z), cx.add(here.z, z)),
            `1/(1/${here.name} + ${kind === 'capacitor' ? term : `1/(${term})`})`,
          ];
    this.here = this.named(`zr${number}`, made, text, `with ${name} as it is`);
  }

  /** Everything as a design, from the source to the load. */
  finished(recipe: string, title: string, context: RecipeContext): ReturnType<typeof finished> {
    const sketch = new Sketch().fed(1, 'n0');
    const all = [...this.stretches].reverse();
    all.forEach((put, i) => put(sketch, `n${i}`, `n${i + 1}`));
    return finished(
      recipe,
      `${this.load.label} to ${ohm(this.z0)}, ${title}`,
      context,
      [
        // What one sees after the last part is nobody's beginning.
        ...this.values.filter((v) => v.name !== this.here.name || !/^zr\d/.test(v.name)),
        ...this.qualities
          .filter((q) => this.mounted.some((m) => m.kind === q.of))
          .map(({ name, value, note }) => ({ name, value, note })),
        FEED,
      ],
      [...sketch.pieces, { ...this.load.piece, nodes: [`n${all.length}`] }],
    );
  }

  /** What the parts are, and what comes of them at the design frequency. */
  sum(): string[] {
    const lossless = this.rungs.map((r) => (r.way === 'link' ? r : { ...r, resistance: 0 }));
    const { reflection } = sectionAtCentre(this.load.z, lossless, this.z0);
    const { efficiency } = sectionAtCentre(this.load.z, this.rungs, this.z0);
    const list = this.mounted
      .map(
        ({ way, kind, value }) =>
          `${way} ${WORDS[kind]} ${formatQuantity(value, kind === 'capacitor' ? 'capacitance' : 'inductance', { digits: 4 })}`,
      )
      .join(', ');
    return [
      `From the load on: ${list}.${this.series === undefined ? '' : ` Rounded to E${this.series}, the return loss at the design frequency is ${reflection < 1e-6 ? 'above 120 dB' : formatQuantity(-20 * Math.log10(reflection), 'level', { digits: 3 })}.`}`,
      `With coils of Q ${formatNumber(this.q.inductor, 3)} and capacitors of Q ${formatNumber(this.q.capacitor, 3)}, ${formatQuantity(-10 * Math.log10(efficiency), 'level', { digits: 3 })} of the power that enters is lost in the parts.`,
    ];
  }
}
