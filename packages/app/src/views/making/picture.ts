import { writeBoardSvg, type BoardPlan } from '@ditch/core/making';
import { boxOf } from '@ditch/core/polygons';
import { download, fileName } from '../../controls/files';
import { say } from '../../store/session';

/** Pixels of the longer side of a picture. */
const LONG = 2400;

/** The board as a bitmap. */
export async function saveBoardPng(plan: BoardPlan): Promise<void> {
  const url = URL.createObjectURL(new Blob([writeBoardSvg(plan)], { type: 'image/svg+xml' }));
  try {
    const { x1, y1 } = boxOf(plan.board);
    const scale = LONG / Math.max(x1, y1);
    const image = new Image();
    image.src = url;
    await image.decode();
    const canvas = document.createElement('canvas');
    [canvas.width, canvas.height] = [Math.round(x1 * scale), Math.round(y1 * scale)];
    const pen = canvas.getContext('2d')!;
    pen.fillStyle = '#fff';
    pen.fillRect(0, 0, canvas.width, canvas.height);
    pen.drawImage(image, 0, 0, canvas.width, canvas.height);
    const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'));
    if (!blob) throw new Error('the picture is too large');
    download(`${fileName(plan.name)}.png`, blob);
  } catch (error) {
    say(`The picture was not made: ${error instanceof Error ? error.message : String(error)}.`);
  } finally {
    URL.revokeObjectURL(url);
  }
}
