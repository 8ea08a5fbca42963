/** Share of a gap by which the thickness of metal may narrow it from either side: what does not touch stays apart. */
const CLOSED = 0.25;

/** How far an edge of thick metal acts outside of itself where other metal is near. @param outward alone @param room to the other, m */
export const inRoom = (outward: number, room: number): number => Math.min(outward, CLOSED * room);
