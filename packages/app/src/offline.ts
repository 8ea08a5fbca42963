import { create } from 'zustand';
import { flush } from './store/session';

/** A newer version that waits: takes it up once everything is stored. */
export const useUpdate = create<{ readonly take: (() => void) | null }>(() => ({ take: null }));

/**
 * Keeps the page working without its server: the built files are kept by a service worker. A newer version is fetched
 * beside it and waits until the engineer takes it, or until no page is open.
 */
export async function keepOffline(): Promise<void> {
  if (!import.meta.env.PROD || !('serviceWorker' in navigator)) return;
  const { registerSW } = await import('virtual:pwa-register');
  const update = registerSW({
    onNeedRefresh: () =>
      useUpdate.setState({
        take: () => void flush().then(() => update(true)),
      }),
    // Without it the page works as before, as long as the server is there.
    onRegisterError: () => undefined,
  });
}

/** Milliseconds that belong to the first view alone. */
const FIRST_VIEW = 1500;

/** Runs when the first view has had its time and the page has nothing else to do. */
export function whenAtRest(work: () => void): void {
  setTimeout(() => {
    if ('requestIdleCallback' in window) window.requestIdleCallback(work, { timeout: 5000 });
    else work();
  }, FIRST_VIEW);
}
