import type { BoardPlan, Layers } from '@ditch/core/making';
import type { Flow } from '@ditch/core/planar';
import type { Colours, Stand } from './solid';

/** What the worker that draws solids is asked. */
export type SolidWish =
  | { readonly kind: 'open'; readonly canvas: OffscreenCanvas }
  | {
      readonly kind: 'build';
      readonly plan: BoardPlan;
      readonly layers: Layers;
      readonly colours: Colours;
      readonly stretch: number;
      readonly flow: Flow | undefined;
    }
  | {
      readonly kind: 'draw';
      readonly stand: Stand;
      readonly size: { readonly width: number; readonly height: number };
      readonly ratio: number;
      readonly background: string;
    }
  | { readonly kind: 'picture' };
export type SolidAnswer =
  | { readonly kind: 'refused' }
  /** What is drawn by now: triangles, and cells of a current. */
  | { readonly kind: 'built'; readonly triangles: number; readonly cells: number }
  | { readonly kind: 'picture'; readonly blob: Blob };

/** A picture on the page that a worker of its own draws. */
export class SolidStage {
  readonly canvas = document.createElement('canvas');
  private readonly worker = new Worker(new URL('./solidWorker.ts', import.meta.url), {
    type: 'module',
    name: 'ditch solid',
  });

  constructor(onAnswer: (answer: SolidAnswer) => void) {
    this.worker.onmessage = ({ data }: MessageEvent<SolidAnswer>) => onAnswer(data);
    this.worker.onerror = () => onAnswer({ kind: 'refused' });
    const canvas = this.canvas.transferControlToOffscreen();
    this.worker.postMessage({ kind: 'open', canvas } satisfies SolidWish, [canvas]);
  }

  ask(wish: SolidWish): void {
    this.worker.postMessage(wish);
  }

  close(): void {
    this.worker.terminate();
    this.canvas.remove();
  }
}
