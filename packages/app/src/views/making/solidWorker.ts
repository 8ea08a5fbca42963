import { SolidBoard } from './solid';
import type { SolidAnswer, SolidWish } from './solidStage';

/** Draws solids beside the page, which stays free meanwhile. */
let canvas: OffscreenCanvas | undefined;
let board: SolidBoard | undefined;
let view: Extract<SolidWish, { kind: 'draw' }> | undefined;

const tell = (answer: SolidAnswer): void => self.postMessage(answer);
const draw = (): void => {
  if (view) board?.draw(view.stand, view.size, view.ratio, view.background);
};

self.onmessage = ({ data: wish }: MessageEvent<SolidWish>): void => {
  if (wish.kind === 'open') {
    try {
      canvas = wish.canvas;
      board = new SolidBoard(canvas);
    } catch {
      tell({ kind: 'refused' });
    }
  } else if (wish.kind === 'build') {
    const { plan, layers, colours, stretch, flow } = wish;
    void board?.build(plan, layers, colours, stretch, flow).then((triangles) => {
      // One that was overtaken says nothing.
      if (triangles === undefined) return;
      draw();
      tell({ kind: 'built', triangles, cells: flow ? flow.first.length - 1 : 0 });
    });
  } else if (wish.kind === 'draw') {
    view = wish;
    draw();
  } else void canvas?.convertToBlob({ type: 'image/png' }).then((blob) => tell({ kind: 'picture', blob }));
};
