import { formatNumber } from '../units';
import type { Recipe } from './contract';
import { FEED, finished, freqField, goalValues, ohm, ratioField, readGoal, Sketch, z0Field } from './shared';

export const ratRace: Recipe = {
  id: 'rat-race',
  name: 'Rat-race hybrid',
  order: 50,
  goal: 'couple',
  blame: 'ratio',
  about: 'A ring of six quarter waves: two outputs in phase from port 1, in opposition from port 4.',
  source: 'Tyrrell 1947; unequal: Pon 1961.',
  fields: [freqField, z0Field, ratioField],

  design(inputs, context) {
    const { ratio } = readGoal(inputs);
    const values = [
      ...goalValues(inputs),
      { name: 'ratio', value: inputs.ratio, note: 'power 2 : 3' },
      { name: 'za', value: 'z0*sqrt((1 + ratio)/ratio)', note: '1 to 2, 3 to 4' },
      { name: 'zb', value: 'z0*sqrt(1 + ratio)', note: '1 to 3, 2 to 4' },
      { name: 'ta', value: '0 mm', note: 'trim of za' },
      { name: 'tb', value: '0 mm', note: 'trim 1 to 3' },
      { name: 'tc', value: '0 mm', note: 'trim 2 to 4' },
      { name: 'ring', value: '(guided(za)/2 + 2*ta + guided(zb) + tb + tc)/(2*pi)', note: 'radius' },
      FEED,
    ];
    const sketch = new Sketch().fed(1, 'a3');
    const arc = (
      id: string,
      name: string,
      nodes: [string, string],
      z0: string,
      theta: string,
      trim: string,
    ) => sketch.add('line', id, name, nodes, { z0, theta, trim, radius: '-ring' }, { role: 'ring' });
    // Clockwise around the ring: 1, 2, three quarters on to 4, 3, and back to 1; the feeds leave outwards, to the left.
    sketch.tee('tee1', ['a1', 'a2', 'a3'], 'left', 'tee at port 1');
    arc('arc12', 'ring 1 to 2', ['a2', 'b1'], 'za', '90 deg', 'ta');
    sketch.tee('tee2', ['b1', 'b2', 'b3'], 'left', 'tee at port 2').fed(2, 'b3');
    arc('arc24', 'ring 2 to 4', ['b2', 'd1'], 'zb', '270 deg', 'tc');
    sketch.tee('tee4', ['d1', 'd2', 'd3'], 'left', 'tee at port 4');
    arc('arc43', 'ring 4 to 3', ['d2', 'c1'], 'za', '90 deg', 'ta');
    sketch.tee('tee3', ['c1', 'c2', 'c3'], 'left', 'tee at port 3').fed(3, 'c3');
    arc('arc31', 'ring 3 to 1', ['c2', 'a1'], 'zb', '90 deg', 'tb');
    sketch.fed(4, 'd3');
    return finished(
      'rat-race',
      `Rat-race hybrid${ratio === 1 ? '' : `, ${formatNumber(ratio, 3)} to 1`}`,
      context,
      values,
      sketch.pieces,
    );
  },

  explain(inputs) {
    const { z0, ratio: r } = readGoal(inputs);
    return [
      `From port 1 a quarter wave leads to each output, so they are in phase; the shares follow the admittances: z\u2080\u221A((1 + r)/r) = ${ohm(z0 * Math.sqrt((1 + r) / r))} between 1 and 2 and between 3 and 4, z\u2080\u221A(1 + r) = ${ohm(z0 * Math.sqrt(1 + r))} between 1 and 3 and in the three quarters between 2 and 4, with r = ${formatNumber(r)}.`,
      'To port 4 one way round is half a wave longer than the other and passes the same two admittances, so the waves cancel there.',
      'The arcs share one radius, that of their common length, so the ring closes whatever their trims are.',
    ];
  },
};

export default [ratRace];
