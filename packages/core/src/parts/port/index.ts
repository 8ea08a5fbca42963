import type { PartDefinition } from '../contract';

/** Where the network is measured: the numbered ports of its S-parameters. */
export const port: PartDefinition = {
  kind: 'port',
  field: 'joined',
  name: 'port',
  group: 'other',
  variants: [{ id: 'port', label: 'port', held: { z: '50 ohm' } }],
  about:
    'A port of the network, with its own reference impedance (a complex one gives power waves, Kurokawa 1965).',
  properties: [
    {
      id: 'reference',
      faces: [
        {
          name: 'z',
          label: 'Reference impedance',
          help: 'Impedance this port is measured with; its real part must be greater than zero.',
          side: 'electrical',
          rule: { kind: 'impedance', complex: true, min: 0, exclusive: true },
        },
      ],
    },
    {
      id: 'plane',
      otherwise: 'the end of its line',
      faces: [
        {
          name: 'plane',
          label: 'Reference plane',
          help: 'How far inside the line that it meets its reference plane lies: the line in front of it is taken off again, at every level. Left out, it lies at the end of the line.',
          side: 'physical',
          rule: { kind: 'length', min: 0 },
        },
      ],
    },
  ],
  pins: () => 1,
  resolve: (held) => held,
  artwork: () => ({ copper: [], pins: [{ x: 0, y: 0, angle: Math.PI }] }),
};

export default [port];
