import { DrawingError, type Drawing } from './contract';
import { readDxf } from './dxf';
import { readGerber } from './gerber';

export * from './contract';

/** Curves of files become straight sides this close to them, m. */
const CHORD = 2e-6;
/** Where there are more corners than this the sides become longer. */
const MANY = 600;
const COARSER = [1, 4, 16];

/**
 * Reads copper from the text of a file, DXF or Gerber by what stands in it. Curves become straight sides within 2 um, or up to
 * 32 um where there would be too many.
 * @throws DrawingError
 */
export function readDrawing(text: string): Drawing {
  if (text.includes('\0')) throw new DrawingError('it is a binary file; save it as text');
  const read = /%FS[LTDAI]|^G04|^%MO(MM|IN)\*%/m.test(text)
    ? readGerber
    : /^\s*0\s*[\r\n]+\s*SECTION/m.test(text)
      ? readDxf
      : undefined;
  if (!read) throw new DrawingError('it is neither DXF nor Gerber');
  let drawing: Drawing | undefined;
  for (const times of COARSER) {
    drawing = read(text, times * CHORD);
    if (drawing.layers.every((l) => l.outlines.flat().length <= MANY)) break;
  }
  const { layers } = drawing!;
  if (layers.length === 0) throw new DrawingError('it has no closed outline of copper');
  const corners = Math.min(...layers.map((l) => l.outlines.flat().length));
  if (corners > 4 * MANY)
    throw new DrawingError(
      `its copper has ${corners} corners, more than one piece of free copper may have (${4 * MANY})`,
    );
  return drawing!;
}
