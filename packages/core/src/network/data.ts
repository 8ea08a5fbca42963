import type { SData } from '../results';
import type { DataBlock } from './document';

const typedData = new WeakMap<DataBlock, SData>();

/** A data block as typed arrays; the same object for the same block. */
export function dataOf(block: DataBlock): SData {
  let data = typedData.get(block);
  if (!data) {
    data = {
      ports: block.ports,
      freq: Float64Array.from(block.freq),
      re: Float64Array.from(block.re),
      im: Float64Array.from(block.im),
      z0: block.z0.map(([re, im]) => ({ re, im })),
    };
    typedData.set(block, data);
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
