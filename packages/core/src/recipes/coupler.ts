import { readPair } from '../lines';
import { COUPLER_SECTIONS, neighboursOf, type CouplerSections } from '../theory';
import { formatNumber } from '../units';
import { RecipeError, type Recipe, type RecipeInputs } from './contract';
import {
  coupledBy,
  coupledWanted,
  CURVED_FEED,
  curvedFeed,
  finished,
  freqField,
  frequencyRule,
  goalValues,
  levelRule,
  ohm,
  read,
  resistanceRule,
  Sketch,
  z0Field,
} from './shared';

function specify(inputs: RecipeInputs) {
  read('freq', inputs.freq, frequencyRule);
  const z0 = read('z0', inputs.z0, resistanceRule).re;
  const coupling = read('coupling', inputs.coupling, levelRule).re;
  const sections = COUPLER_SECTIONS.find((n) => String(n) === inputs.sections.trim());
  if (!sections) throw new RecipeError('sections', 'must be 1, 3 or 5');
  const rippled = sections > 1 && inputs.profile === 'ripple';
  const ripple = rippled ? read('ripple', inputs.ripple, levelRule).re : 0;
  return { z0, coupling, sections, ripple, rippled, design: coupledBy({ coupling, sections, ripple }) };
}

/** Whether the coupler is made of interdigitated fingers. */
const hasFingers = (inputs: RecipeInputs): boolean =>
  inputs.sections.trim() === '1' && inputs.strips === 'fingers';

/** Which of the different sections, counted from the ends to the middle, stands at a place. */
const kindAt = (place: number, sections: CouplerSections): number => Math.min(place, sections + 1 - place);

/** What the neighbours of four fingers have to be, in words. */
function fingers(z0: number, even: number): string {
  const [ze, zo] = neighboursOf(z0 * even, z0 / even);
  return `Four fingers, every other joined, have these where two neighbours alone have ${formatNumber(ze)} / ${ohm(zo)}: a coupling of ${formatNumber(readPair(ze, zo).couplingDb, 3)} dB, which a gap can be etched for.`;
}

/** The four feeds: where they leave, to which side, and how they turn to look along the board. */
const ENDS = [
  { port: 1, at: 'near1', side: 'left', turn: '90 deg' },
  { port: 3, at: 'near2', side: 'right', turn: '90 deg' },
  { port: 2, at: 'far1', side: 'right', turn: '90 deg' },
  { port: 4, at: 'far2', side: 'left', turn: '-90 deg' },
] as const;

export const coupler: Recipe = {
  id: 'coupler',
  name: 'Coupled-line coupler',
  order: 45,
  goal: 'couple',
  blame: 'coupling',
  about: 'Takes a set share of the power that passes, in one direction only, with nothing mounted.',
  source:
    'One section: Oliver 1954; several sections, exact: Levy 1963, Cristal & Young 1965; maximally flat or of equal ripple.',
  fields: [
    freqField,
    z0Field,
    {
      name: 'coupling',
      label: 'Coupling',
      help: 'How far the power at port 3 lies below that at port 1, as a positive number: 20 dB is a hundredth. Side by side on one layer, about 8 dB is the most.',
      initial: '20 dB',
      type: 'quantity',
      rule: levelRule,
    },
    {
      name: 'sections',
      label: 'Sections',
      help: 'Quarter waves one after the other. Three and five keep the coupling over a wider band; their middle section couples more.',
      initial: '1',
      type: 'choice',
      options: COUPLER_SECTIONS.map((n) => ({ id: String(n), label: String(n) })),
    },
    {
      name: 'profile',
      label: 'Coupling in the band',
      help: 'Maximally flat is exact at the design frequency; equal ripple swings about the coupling by the same amount to each side and reaches further.',
      initial: 'flat',
      type: 'choice',
      options: [
        { id: 'flat', label: 'Maximally flat' },
        { id: 'ripple', label: 'Equal ripple' },
      ],
      needs: 'it belongs to --sections 3 and 5',
      when: (inputs) => inputs.sections !== '1',
    },
    {
      name: 'ripple',
      label: 'Ripple',
      help: 'By how much the coupling swings to each side of what is asked for.',
      initial: '0.2 dB',
      type: 'quantity',
      rule: levelRule,
      needs: 'it belongs to --profile ripple',
      when: (inputs) => inputs.sections !== '1' && inputs.profile === 'ripple',
    },
    {
      name: 'strips',
      label: 'Strips',
      help: 'Two strips side by side couple up to about 8 dB; four interdigitated fingers, every other joined by bonds, reach 3 dB with gaps that can be etched.',
      initial: 'pair',
      type: 'choice',
      options: [
        { id: 'pair', label: 'Two, side by side' },
        { id: 'fingers', label: 'Four, interdigitated' },
      ],
      needs: 'it belongs to --sections 1',
      when: (inputs) => inputs.sections === '1',
    },
    {
      name: 'velocities',
      label: 'Mode velocities',
      help: 'In microstrip the odd mode runs ahead of the even one, which spoils the directivity. Small capacitors across the gap at the ends of each section hold it back; the ideal level does not see them.',
      initial: 'free',
      type: 'choice',
      options: [
        { id: 'free', label: 'As they are' },
        { id: 'bridged', label: 'Evened by end capacitors' },
      ],
      needs: 'it belongs to --strips pair',
      when: (inputs) => !hasFingers(inputs),
    },
  ],

  coupled: coupledWanted,

  design(inputs, context) {
    const { sections, coupling, rippled } = specify(inputs);
    const values = [
      ...goalValues(inputs),
      { name: 'coupling', value: inputs.coupling, note: 'of the power, below port 1' },
    ];
    if (rippled) values.push({ name: 'ripple', value: inputs.ripple, note: 'to each side' });
    const which = (kind: number) =>
      sections === 1 ? '' : kind === (sections + 1) / 2 ? ', middle' : kind === 1 ? ', outer' : ', between';
    for (let kind = 1; kind <= (sections + 1) / 2; kind++)
      values.push(
        {
          name: `ze${kind}`,
          value: `couplereven(z0, coupling, ${sections}, ${rippled ? 'ripple' : '0 dB'}, ${kind})`,
          note: `even${which(kind)}`,
        },
        { name: `zo${kind}`, value: `z0^2/ze${kind}`, note: `odd${which(kind)}` },
      );
    values.push(CURVED_FEED);

    const sketch = new Sketch();
    const end = ({ port, at, side, turn }: (typeof ENDS)[number]) => {
      const [feed, bend] = [`f${port}`, `b${port}`];
      const course = curvedFeed(port, turn);
      // Bent away before it gets as wide as its feed, so that the gap at the ends stays that of the pair.
      if (port === 1) {
        sketch.fed(port, feed, 'z0', course).step(`step${port}`, feed, bend);
        sketch.bend(`bend${port}`, [at, bend], side);
      } else {
        sketch.bend(`bend${port}`, [at, bend], side);
        sketch.step(`step${port}`, bend, feed).fed(port, feed, 'z0', course);
      }
    };
    end(ENDS[0]);
    end(ENDS[1]);
    for (let place = 1; place <= sections; place++) {
      const kind = kindAt(place, sections);
      const from = place === 1 ? ['near1', 'near2'] : [`j${place}a`, `j${place}b`];
      const to = place === sections ? ['far1', 'far2'] : [`k${place}a`, `k${place}b`];
      sketch.add(
        hasFingers(inputs) ? 'finger-pair' : 'line-pair',
        `pair${place}`,
        sections === 1 ? 'coupled lines' : `coupled lines ${place}`,
        [...from, ...to],
        {
          ze: `ze${kind}`,
          zo: `zo${kind}`,
          theta: '90 deg',
          ...(inputs.velocities === 'bridged' && !hasFingers(inputs)
            ? { bridge: `evened(ze${kind}, zo${kind})` }
            : {}),
        },
        { role: 'coupled', settings: { side: 'left' } },
      );
      if (place < sections)
        sketch.add(
          'pair-step',
          `jog${place}`,
          `step ${place} to ${place + 1}`,
          [...to, `j${place + 1}a`, `j${place + 1}b`],
          {},
          { settings: { side: 'left' } },
        );
    }
    end(ENDS[2]);
    end(ENDS[3]);
    return finished(
      'coupler',
      `Coupler, ${formatNumber(coupling, 3)} dB${sections === 1 ? '' : `, ${sections} sections`}`,
      context,
      values,
      sketch.pieces,
      // What comes back and what leaks shall stay well below what is coupled.
      `${Math.max(20, Math.min(40, 10 * Math.round(coupling / 10) + 10))} dB`,
    );
  },

  explain(inputs) {
    const { z0, coupling, sections, ripple, design } = specify(inputs);
    const share = Math.pow(10, -coupling / 10);
    const c = Math.sqrt(share);
    const pairs = design.even
      .slice(0, (sections + 1) / 2)
      .map((z) => `${formatNumber(z0 * z)} / ${ohm(z0 / z)}`);
    const shares = `Port 3 gets ${formatNumber(100 * share, 3)} % of the power and port 2 ${formatNumber(100 * (1 - share), 3)} %, a quarter period apart; port 4 gets nothing as long as both modes travel alike.`;
    if (sections === 1)
      return [
        `A quarter wave couples C = (z\u2091 \u2212 z\u2092)/(z\u2091 + z\u2092) and is matched where z\u2091z\u2092 = z\u2080\u00B2. So z\u2091 = z\u2080\u221A((1 + C)/(1 \u2212 C)) and z\u2092 = z\u2080\u221A((1 \u2212 C)/(1 + C)): ${pairs[0]}, with C = ${formatNumber(c)}.`,
        ...(hasFingers(inputs) ? [fingers(z0, design.even[0])] : []),
        shares,
        `The coupling stays within 1 dB over ${formatNumber(100 * design.band, 3)} % of the centre.`,
      ];
    return [
      `Each section has z\u2091z\u2092 = z\u2080\u00B2, so that the odd mode is the dual of the even one and the whole is matched and isolated at every frequency. Its coupled over its through voltage is sin \u03B8 times a polynomial in cos\u00B2\u03B8, ${ripple > 0 ? `made to swing by ${formatNumber(ripple)} dB to each side of the coupling` : 'made maximally flat at the centre'}.`,
      `The sections that have it exactly, from an end to the middle: ${pairs.join(', ')}.`,
      shares,
      `The coupling stays within ${ripple > 0 ? `${formatNumber(2 * ripple)} dB` : '1 dB'} over ${formatNumber(100 * design.band, 3)} % of the centre.`,
    ];
  },
};

export default [coupler];
