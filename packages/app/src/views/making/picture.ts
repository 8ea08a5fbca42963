import { writeBoardSvg, type BoardPlan } from '@ditch/core/making';
import { boxOf } from '@ditch/core/polygons';
import { pngOf } from '../../charts/export';
import { download, fileName } from '../../controls/files';
import { say } from '../../store/session';

/** Pixels of the longer side of a picture. */
const LONG = 2400;

/** The board as a bitmap. */
export async function saveBoardPng(plan: BoardPlan): Promise<void> {
  const { x1, y1 } = boxOf(plan.board);
  const scale = LONG / Math.max(x1, y1);
  try {
    download(`${fileName(plan.name)}.png`, await pngOf(writeBoardSvg(plan), x1 * scale, y1 * scale, '#fff'));
  } catch (error) {
    say(`The picture was not made: ${error instanceof Error ? error.message : String(error)}.`);
  }
}
