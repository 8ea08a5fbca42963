import type { QuantityRule } from '../units';
import type { LengthField } from './shop';

const length: QuantityRule = { kind: 'length', min: 0 };
const some: QuantityRule = { kind: 'length', min: 0, exclusive: true };
export const place: QuantityRule = { kind: 'length' };

/** Fields of a panel, by where they stand. */
export const panelFields: readonly LengthField<'width' | 'height' | 'margin' | 'letters' | 'marks'>[] = [
  {
    field: 'width',
    label: 'Width',
    help: 'Of the board. Empty: as far as what is on it reaches, and the margin.',
    rule: some,
  },
  {
    field: 'height',
    label: 'Height',
    help: 'Of the board. Empty: as far as what is on it reaches, and the margin.',
    rule: some,
  },
  {
    field: 'margin',
    label: 'Margin',
    help: 'Board around what is on it where no size is given, and between designs that are arranged.',
    rule: length,
  },
  {
    field: 'letters',
    label: 'Letters',
    help: 'Height of the names that are etched into the copper.',
    rule: some,
  },
  {
    field: 'marks',
    label: 'Marks',
    help: 'Diameter of the round marks in three corners, by which machines find the board.',
    rule: some,
  },
];

export const launchFields: readonly LengthField<'gap' | 'width' | 'length' | 'hole'>[] = [
  { field: 'gap', label: 'Gap', help: 'Between the line and the ground beside it.', rule: some },
  { field: 'width', label: 'Width', help: 'Of the ground beside the line, along the rim.', rule: some },
  {
    field: 'length',
    label: 'Length',
    help: 'Of the ground beside the line, from the rim inwards.',
    rule: some,
  },
  { field: 'hole', label: 'Hole', help: 'Diameter of the holes to ground in it.', rule: some },
];

export const fenceFields: readonly LengthField<'hole' | 'pitch' | 'inset'>[] = [
  { field: 'hole', label: 'Hole', help: 'Diameter of the holes to ground.', rule: some },
  {
    field: 'pitch',
    label: 'Pitch',
    help: 'From hole to hole: a twentieth of the wavelength in the board is dense.',
    rule: some,
  },
  {
    field: 'inset',
    label: 'Inset',
    help: 'From the rim of the board to the middles of the holes.',
    rule: some,
  },
];

export const placeFields: readonly LengthField<'x' | 'y'>[] = [
  { field: 'x', label: 'x', help: 'Left edge of the design\u2019s own board.', rule: place },
  { field: 'y', label: 'y', help: 'Lower edge of the design\u2019s own board.', rule: place },
];
