import type { SData } from '../results';
import type { DataBlock } from './document';

const typedData = new WeakMap<DataBlock, SData>();
const blocks = new WeakMap<SData, DataBlock>();

/** The block that data was read from. */
export const blockOf = (data: SData): DataBlock | undefined => blocks.get(data);

/** A data block as typed arrays; the same object for the same block. */
export function dataOf(block: DataBlock): SData {
  let data = typedData.get(block);
  if (!data) {
    // Of what was solved over sizes the first state: the middle of all ranges.
    const own = block.over && block.freq.length * block.ports ** 2;
    data = {
      ports: block.ports,
      freq: Float64Array.from(block.freq),
      re: Float64Array.from(own ? block.re.slice(0, own) : block.re),
      im: Float64Array.from(own ? block.im.slice(0, own) : block.im),
      z0: block.z0.map(([re, im]) => ({ re, im })),
    };
    typedData.set(block, data);
    blocks.set(data, block);
  }
  return data;
}

/** Finds data by its id. */
export const dataFinder =
  (blocks: readonly DataBlock[]) =>
  (id: string): SData | undefined => {
    const found = blocks.find((d) => d.id === id);
    return found && dataOf(found);
  };
