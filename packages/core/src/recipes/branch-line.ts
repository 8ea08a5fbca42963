import { formatNumber } from '../units';
import type { Recipe } from './contract';
import {
  FEED,
  finished,
  freqField,
  goalValues,
  ohm,
  ratioField,
  readCount,
  readGoal,
  Sketch,
  z0Field,
} from './shared';

export const branchLine: Recipe = {
  id: 'branch-line',
  name: 'Branch-line hybrid',
  order: 40,
  goal: 'couple',
  blame: 'ratio',
  about: 'Splits power into two outputs in quadrature, with the fourth port isolated.',
  source: 'Reed & Wheeler 1956; two sections with through arms at the system impedance: Levy & Lind 1968.',
  fields: [
    freqField,
    z0Field,
    ratioField,
    {
      name: 'sections',
      label: 'Sections',
      help: 'One section has two branches, two sections have three and about twice the band.',
      initial: '1',
      type: 'count',
      min: 1,
      max: 2,
    },
  ],

  design(inputs, context) {
    const { ratio } = readGoal(inputs);
    const sections = readCount('sections', inputs.sections, [1, 2] as const);
    const values = [...goalValues(inputs), { name: 'ratio', value: inputs.ratio, note: 'power 2 : 3' }];
    if (sections === 1)
      values.push(
        { name: 'zs', value: 'z0*sqrt(ratio/(1 + ratio))', note: 'through arms' },
        { name: 'zp', value: 'z0*sqrt(ratio)', note: 'branches' },
      );
    else
      values.push(
        { name: 'zs', value: 'z0', note: 'through arms' },
        { name: 'zp', value: 'z0/(sqrt(1 + ratio) - sqrt(ratio))', note: 'outer branches' },
        { name: 'zm', value: 'z0*sqrt(1 + ratio)', note: 'middle branch' },
        { name: 'tp', value: '0 mm', note: 'trim of the branches' },
        // All branches are as long as the mean of their quarter waves, so that the two rings close.
        { name: 'even', value: '(guided(zm) - guided(zp))/8', note: 'to equal branches' },
      );
    values.push(FEED);
    const through = (id: string, name: string, from: string, to: string) =>
      sketch.add('line', id, name, [from, to], { z0: 'zs', theta: '90 deg' }, { role: 'through' });
    const branch = (id: string, name: string, from: string, to: string, z0: string, trim?: string) =>
      sketch.add(
        'line',
        id,
        name,
        [from, to],
        { z0, theta: '90 deg', ...(trim === undefined ? {} : { trim }) },
        { role: 'branch' },
      );
    const outer = sections === 2 ? 'even + tp' : undefined;
    const sketch = new Sketch().fed(1, 'a1');
    sketch.tee('tee1', ['a1', 'a2', 'a3'], 'right', 'tee at port 1');
    if (sections === 1) {
      through('through12', 'through 1 to 2', 'a2', 'b1');
      sketch.tee('tee2', ['b1', 'b2', 'b3'], 'right', 'tee at port 2').fed(2, 'b2');
      branch('branch23', 'branch 2 to 3', 'b3', 'c3', 'zp', outer);
      sketch.tee('tee3', ['c1', 'c2', 'c3'], 'left', 'tee at port 3').fed(3, 'c2');
      through('through43', 'through 4 to 3', 'd2', 'c1');
    } else {
      through('through1m', 'through 1 to middle', 'a2', 'm1');
      sketch.tee('teem', ['m1', 'm2', 'm3'], 'right', 'tee in the middle, upper');
      through('throughm2', 'through middle to 2', 'm2', 'b1');
      sketch.tee('tee2', ['b1', 'b2', 'b3'], 'right', 'tee at port 2').fed(2, 'b2');
      branch('branch23', 'branch 2 to 3', 'b3', 'c3', 'zp', outer);
      sketch.tee('tee3', ['c1', 'c2', 'c3'], 'left', 'tee at port 3').fed(3, 'c2');
      through('throughn3', 'through middle to 3', 'n2', 'c1');
      sketch.tee('teen', ['n1', 'n2', 'n3'], 'left', 'tee in the middle, lower');
      branch('branchm', 'middle branch', 'm3', 'n3', 'zm', 'tp - even');
      through('through4n', 'through 4 to middle', 'd2', 'n1');
    }
    sketch.tee('tee4', ['d1', 'd2', 'd3'], 'left', 'tee at port 4');
    branch('branch14', 'branch 1 to 4', 'a3', 'd3', 'zp', outer);
    sketch.fed(4, 'd1');
    return finished(
      'branch-line',
      `Branch-line hybrid${ratio === 1 ? '' : `, ${formatNumber(ratio, 3)} to 1`}${sections === 1 ? '' : ', 2 sections'}`,
      context,
      values,
      sketch.pieces,
    );
  },

  explain(inputs) {
    const { z0, ratio: r } = readGoal(inputs);
    const sections = readCount('sections', inputs.sections, [1, 2] as const);
    const shares = `Port 2 gets ${formatNumber((100 * r) / (1 + r), 3)} % of the power and port 3 ${formatNumber(100 / (1 + r), 3)} %, a quarter period apart; the waves that reach port 4 cancel.`;
    if (sections === 1)
      return [
        `Split into an even and an odd half by the plane between the through arms, match and isolation ask for through arms of z\u2080\u221A(r/(1 + r)) = ${ohm(z0 * Math.sqrt(r / (1 + r)))} and branches of z\u2080\u221Ar = ${ohm(z0 * Math.sqrt(r))}, with r = ${formatNumber(r)}.`,
        shares,
      ];
    return [
      `Two quarter waves of z\u2080 with three branches: match asks for b = 2a/(1 + a\u00B2) between the admittances a of the outer branches and b of the middle one, and the coupled share is b\u00B2. So the outer branches have z\u2080/(\u221A(1 + r) \u2212 \u221Ar) = ${ohm(z0 / (Math.sqrt(1 + r) - Math.sqrt(r)))} and the middle one z\u2080\u221A(1 + r) = ${ohm(z0 * Math.sqrt(1 + r))}, with r = ${formatNumber(r)}.`,
      shares,
    ];
  },
};

export default [branchLine];
