import { designWilkinson } from '../theory';
import { formatNumber } from '../units';
import { RecipeError, type Recipe, type RecipeInputs } from './contract';
import {
  FEED,
  finished,
  freqField,
  goalValues,
  ohm,
  ratioField,
  readBand,
  readCount,
  readGoal,
  Sketch,
  z0Field,
} from './shared';

const DEFAULT_BAND: Readonly<Record<number, string>> = { 2: '50 %', 3: '66.7 %' };
/** Copper left free between the two arms where a resistor bridges them. */
const FREE = '1 mm';

function specify(inputs: RecipeInputs) {
  const goal = readGoal(inputs);
  const sections = readCount('sections', inputs.sections, [1, 2, 3] as const);
  if (sections > 1 && goal.ratio !== 1)
    throw new RecipeError('ratio', 'must be 1 with several sections; an unequal divider has one');
  const text = inputs.bandwidth.trim() || DEFAULT_BAND[sections];
  const band = sections === 1 ? 0 : readBand('bandwidth', text, goal.f0);
  return { ...goal, sections, band, text };
}

export const wilkinson: Recipe = {
  id: 'wilkinson',
  name: 'Wilkinson divider',
  order: 30,
  goal: 'divide',
  blame: 'ratio',
  about: 'Splits power between two outputs that are matched and isolated from one another by resistors.',
  source: 'Wilkinson 1960; unequal: Parad & Moynihan 1965; several sections: Cohn 1968.',
  fields: [
    freqField,
    z0Field,
    ratioField,
    {
      name: 'sections',
      label: 'Sections',
      help: 'Quarter waves in each arm, each with its resistor: 1 to 3. More sections keep match and isolation over a wider band.',
      initial: '1',
      type: 'count',
      min: 1,
      max: 3,
    },
    {
      name: 'bandwidth',
      label: 'Band',
      help: 'Band of equal ripple for two and three sections: a frequency, or a percentage of the centre.',
      initial: '',
      type: 'text',
      placeholder: '50 %, 66.7 % for three',
      needs: 'it belongs to --sections 2 and 3',
      when: (inputs) => inputs.sections === '2' || inputs.sections === '3',
    },
  ],

  design(inputs, context) {
    const { ratio, sections, text } = specify(inputs);
    const values = goalValues(inputs);
    const sketch = new Sketch()
      .fed(1, 'in')
      .tee('tee1', ['down', 'up', 'in'], 'left', 'tee at the common port');
    const isolation = { role: 'isolation' } as const;
    let widest = 'width(z0)';
    if (sections === 1) {
      const even = ratio === 1;
      if (even) values.push({ name: 'za', value: 'sqrt(2)*z0', note: 'arms' });
      else {
        values.push(
          { name: 'ratio', value: inputs.ratio, note: 'power 2 : 3' },
          { name: 'k', value: 'sqrt(1/ratio)', note: 'K' },
          { name: 'z3', value: 'z0*sqrt((1 + k^2)/k^3)', note: 'arm to port 3' },
          { name: 'z2', value: 'k^2*z3', note: 'arm to port 2' },
          { name: 't2', value: 'z0*sqrt(k)', note: 'transformer to 2' },
          { name: 't3', value: 'z0/sqrt(k)', note: 'transformer to 3' },
        );
        widest = 'max(width(t2), width(t3))';
      }
      const theory = even ? '2*z0' : 'z0*(k + 1/k)';
      values.push({ name: 'gap', value: `${widest} + ${FREE}`, note: 'between the arms' }, FEED);
      for (const [n, node, sign, side] of [
        [2, 'up', '-', 'left'],
        [3, 'down', '', 'right'],
      ] as const) {
        sketch
          .add(
            'line',
            `arm${n}`,
            `arm ${n}`,
            [node, `a${n}`],
            {
              z0: even ? 'za' : `z${n}`,
              theta: '90 deg',
              lead: 'width(z0)/2',
              turn: `${sign}asinc(min(0.95, (gap - width(z0))/2/(length - width(z0)/2)))`,
            },
            { role: 'arm' },
          )
          .tee(`tee${n}`, [`a${n}`, `r${n}`, `o${n}`], side, `tee at arm ${n}`);
        if (n === 2)
          sketch.add(
            'resistor',
            'isolation',
            'resistor',
            ['r2', 'r3'],
            { r: theory, span: 'gap' },
            {
              ...isolation,
              marks: { theory },
            },
          );
        if (even) sketch.fed(n, `o${n}`);
        else
          sketch
            .add(
              'line',
              `transformer${n}`,
              `transformer ${n}`,
              [`o${n}`, `s${n}`],
              { z0: `t${n}`, theta: '90 deg' },
              {
                role: 'transformer',
              },
            )
            .step(`step${n}`, `s${n}`, `f${n}`)
            .fed(n, `f${n}`);
      }
    } else {
      values.push({
        name: 'band',
        value: /[a-zA-Z]/.test(text) ? `${text}/f0` : text,
        note: 'of the centre',
      });
      for (let i = 1; i <= sections; i++)
        values.push({ name: `z${i}`, value: `wilkinson(z0, ${sections}, band, ${i})`, note: `section ${i}` });
      for (let i = 1; i <= sections; i++)
        values.push({
          name: `r${i}`,
          value: `isolation(z0, ${sections}, band, ${i})`,
          note: `resistor ${i}`,
        });
      values.push({ name: 'gap', value: `${widest} + 1.5 mm`, note: 'between the arms' }, FEED);
      for (const [n, node, sign, side] of [
        [2, 'up', '-', 'right'],
        [3, 'down', '', 'left'],
      ] as const) {
        let from: string = node;
        for (let i = 1; i <= sections; i++) {
          const to = `a${n}${i}`;
          const next = i === sections ? `o${n}` : `b${n}${i}`;
          sketch
            .add(
              'line',
              `arm${n}-${i}`,
              `arm ${n}, section ${i}`,
              [from, to],
              {
                z0: `z${i}`,
                theta: '90 deg',
                ...(i === 1
                  ? { turn: `${sign}90 deg`, radius: '(gap - width(z0))/2', lead: 'width(z0)/2' }
                  : {}),
              },
              { role: 'arm' },
            )
            .tee(`tee${n}-${i}`, [to, next, `r${n}${i}`], side, `tee at arm ${n}, section ${i}`);
          from = next;
        }
        if (n === 2)
          for (let i = 1; i <= sections; i++)
            sketch.add(
              'resistor',
              `isolation${i}`,
              `resistor ${i}`,
              [`r2${i}`, `r3${i}`],
              // From edge to edge of the arms, where they are widest.
              { r: `r${i}`, span: `gap - max(width(z${i}), width(z${i === sections ? '0' : i + 1}))` },
              {
                ...isolation,
                marks: { theory: `r${i}` },
              },
            );
        sketch.fed(n, `o${n}`, 'z0', {
          turn: n === 2 ? '90 deg' : '-90 deg',
          radius: 'feed/2',
          lead: '0.2*feed',
        });
      }
    }
    return finished(
      'wilkinson',
      `Wilkinson divider${ratio === 1 ? '' : `, ${formatNumber(ratio, 3)} to 1`}${sections === 1 ? '' : `, ${sections} sections`}`,
      context,
      values,
      sketch.pieces,
    );
  },

  explain(inputs) {
    const { z0, ratio, sections, band } = specify(inputs);
    if (sections > 1) {
      const d = designWilkinson(sections, band);
      const dB = (x: number) => `${formatNumber(-20 * Math.log10(x), 3)} dB`;
      return [
        `Driven alike, each arm turns twice the system impedance into it: an exact equal-ripple transformer from ${ohm(2 * z0)} to ${ohm(z0)} over ${formatNumber(band * 100, 3)} % of the centre, with sections of ${d.impedances.map((z) => formatNumber(z * z0)).join(', ')} \u03A9 from the common port on. The input stays matched to ${dB(d.reflection)}.`,
        `Driven against one another, the arms end in a short at the common port. Resistors of ${d.resistances.map((r) => formatNumber(r * z0)).join(', ')} \u03A9 put the zeros of that reflection into the band, with equal peaks of ${dB(d.odd)}.`,
        `Isolation and output match follow from half the sum and difference of the two: at least ${dB((d.reflection + d.odd) / 2)}.`,
      ];
    }
    if (ratio === 1)
      return [
        `Driven alike, the outputs carry the same voltage and the resistor no current: each arm is a quarter wave from 2z\u2080 to z\u2080, so it has \u221A2 z\u2080 = ${ohm(Math.SQRT2 * z0)}.`,
        `Driven against one another, the common end is a short that the quarter wave turns into an open, and half the resistor must be z\u2080: 2z\u2080 = ${ohm(2 * z0)}.`,
      ];
    const k = Math.sqrt(1 / ratio);
    const z3 = z0 * Math.sqrt((1 + k * k) / k ** 3);
    return [
      `With K\u00B2 = power at 3 over power at 2 = ${formatNumber(k * k)}: z\u2083 = z\u2080\u221A((1 + K\u00B2)/K\u00B3) = ${ohm(z3)}, z\u2082 = K\u00B2z\u2083 = ${ohm(k * k * z3)}. The outputs stand at z\u2080K and z\u2080/K, at equal voltage, so that the resistor carries nothing.`,
      `It is z\u2080(K + 1/K) = ${ohm(z0 * (k + 1 / k))}. Quarter waves of z\u2080\u221AK = ${ohm(z0 * Math.sqrt(k))} and z\u2080/\u221AK = ${ohm(z0 / Math.sqrt(k))} bring the outputs back to the system.`,
    ];
  },
};

export default [wilkinson];
