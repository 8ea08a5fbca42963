/** Frames until a place that is not drawn is given up. */
const PATIENCE = 180;

let turn = 0;
let pending = false;

/**
 * Gives the focus to a place once the menu it was asked from is gone and the place is drawn, however many frames
 * that takes, and holds it until the menu's own giving back is over. A hand that has gone elsewhere is left there.
 * A later call takes the place of an earlier one, but `yielding` ones give way to any under way.
 */
export function focusAfterMenu(
  find: () => HTMLElement | null | undefined,
  { passing, yielding = false }: { passing?: HTMLElement | null; yielding?: boolean } = {},
): void {
  if (yielding && pending) return;
  const mine = ++turn;
  pending = true;
  let held = 0;
  let frames = 0;
  /** Where the focus stood when the menu was gone. */
  let left: Element | null | undefined;
  const step = () => {
    if (mine !== turn) return;
    const now = document.activeElement;
    const place = find();
    let elsewhere = false;
    if (document.querySelector('[role="menu"]') === null) {
      if (left === undefined) left = now;
      const free = now === document.body || now === passing || now === left;
      if (place && now === place) held++;
      else if (!free) elsewhere = true;
      else if (place?.isConnected) {
        place.focus();
        left = null;
      }
    }
    pending = !elsewhere && held < 3 && ++frames < PATIENCE;
    if (pending) requestAnimationFrame(step);
  };
  requestAnimationFrame(step);
}
