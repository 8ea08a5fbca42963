import { idealJoint } from '../../electrical';
import { alike, type PartDefinition } from '../contract';
import { pinsAt } from '../shapes';

const WAYS: Readonly<Record<string, readonly number[]>> = {
  '2': [Math.PI, 0],
  '3': [Math.PI, 0, Math.PI / 2],
  '4': [Math.PI, 0, Math.PI / 2, -Math.PI / 2],
};

/** An ideal joint: pins at one point, at both levels. */
export const joint: PartDefinition = {
  kind: 'joint',
  field: 'copper',
  name: 'ideal joint',
  group: 'junction',
  about:
    'Two to four pins joined at one point without any effect of its own at either level: to try an idea before its junction is chosen.',
  variants: [
    { id: 'joint-3', label: 'ideal joint, three ways', held: {}, settings: { ways: '3' } },
    { id: 'joint-4', label: 'ideal joint, four ways', held: {}, settings: { ways: '4' } },
  ],
  properties: [],
  choices: [
    {
      name: 'ways',
      label: 'Ways',
      help: 'Number of pins joined.',
      options: Object.keys(WAYS).map((id) => ({ id, label: id })),
    },
  ],
  alikePins: 'aaaa',
  pins: (settings) => (WAYS[settings.ways] ?? WAYS['3']).length,
  resolve: () => ({}),
  models: alike({
    reads: ['ways'],
    electrical: ({ settings }) => idealJoint((WAYS[settings.ways] ?? WAYS['3']).length),
  }),
  artwork: (_values, { settings }) => ({ copper: [], pins: pinsAt(...(WAYS[settings.ways] ?? WAYS['3'])) }),
};

export default [joint];
