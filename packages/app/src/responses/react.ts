import { useEffect, useState, useSyncExternalStore } from 'react';
import { ResponseStore, type Snapshot, type Wanted } from './store';

/** A store of responses for a view, told what is wanted at every change. */
export function useResponseStore(wanted: Wanted | undefined): ResponseStore {
  const [store] = useState(() => new ResponseStore(wanted));
  useEffect(() => store.want(wanted), [store, wanted]);
  useEffect(() => () => store.close(), [store]);
  return store;
}

/** What a store of responses has, followed. */
export const useSnapshot = (store: ResponseStore): Snapshot =>
  useSyncExternalStore(store.subscribe, store.get);

/** Responses of a view. @param wanted the same object as long as nothing of it changes */
export const useResponses = (wanted: Wanted | undefined): Snapshot => useSnapshot(useResponseStore(wanted));
