import { DrawingError, readDrawing, type Drawing } from '@ditch/core/formats/drawing';
import type { Reading } from './turns';

/** Reads copper from the text of a DXF or a Gerber file. */
export function drawing({ text }: { readonly text: string }): Promise<Reading<Drawing>> {
  try {
    return Promise.resolve({ value: readDrawing(text) });
  } catch (error) {
    if (error instanceof DrawingError) return Promise.resolve({ problem: error.message });
    throw error;
  }
}
