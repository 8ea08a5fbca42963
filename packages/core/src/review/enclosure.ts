import { enclosureResonances, fromWalls, sideWalls, type Layout } from '../artwork';
import { enclosureSides, type EnclosureSide, type Place, type ResolvedDesign } from '../network';
import { formatQuantity } from '../units';

/** What is said of a design's side walls. */
export interface WallRemark {
  readonly place: Place;
  readonly message: string;
}

/** So many resonances are told one by one. */
const TOLD = 6;
/** What lies this close to a wall is at it, m. */
const AT_WALL = 1e-9;

const length = (x: number): string => formatQuantity(x, 'length', { digits: 3 });

/** Side walls that resonate inside of the sweep, that copper touches, that ports do not reach. */
export function reviewEnclosure(resolved: ResolvedDesign, layout: Layout): WallRemark[] {
  const walls = sideWalls(resolved, layout);
  if (!walls) return [];
  const remarks: WallRemark[] = [];
  const about = (side: EnclosureSide): Place => ({ kind: 'enclosure', side });
  const found = enclosureResonances(resolved, layout);
  if (found.length > 0) {
    const told = found.slice(0, TOLD).map((f) => formatQuantity(f, 'frequency', { digits: 4 }));
    remarks.push({
      place: about('left'),
      message: `The enclosure resonates at ${told.join(', ')}${found.length > TOLD ? ' and further' : ''}, inside of the sweep: there everything in it couples. Only the solved level shows it; nearer walls move it up.`,
    });
  }
  const nameOf = (id: string) => resolved.pieces.find((p) => p.id === id)?.name ?? id;
  const ports = layout.pieces.filter((p) => p.kind === 'port');
  for (const side of enclosureSides) {
    const touching = layout.pieces.filter(
      (p) =>
        p.copper.flat().some((at) => Math.abs(fromWalls(walls, at)[side]) < AT_WALL) &&
        // The end of a line with its port at the wall is meant.
        !ports.some(({ pins: [at] }) =>
          p.pins.some(
            (pin) => Math.hypot(pin.x - at.x, pin.y - at.y) < AT_WALL && fromWalls(walls, at)[side] < AT_WALL,
          ),
        ),
    );
    if (touching.length > 0)
      remarks.push({
        place: about(side),
        message: `${touching.map((p) => nameOf(p.id)).join(', ')} ${touching.length > 1 ? 'touch' : 'touches'} the wall (${side}) where no port is, and is joined to it there.`,
      });
  }
  const short = ports.flatMap(({ id, pins: [at] }) => {
    const nearest = Math.min(...Object.values(fromWalls(walls, at)));
    return nearest < AT_WALL ? [] : [`${nameOf(id)} by ${length(nearest)}`];
  });
  if (short.length > 0)
    remarks.push({
      place: about('left'),
      message: `Ports do not reach the wall: ${short.join(', ')}. Their lines end there inside of the enclosure, and are fed from the ground below; a distance of 0 brings the wall to them.`,
    });
  return remarks;
}
