import type { Edit } from '@anthemion/core';
import { configureStore, createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { useDispatch, useSelector, useStore } from 'react-redux';
import { api } from './api.ts';

export type SheetChoice = 'system' | 'limestone' | 'basalt';
interface Preferences {
  readonly sheet: SheetChoice;
  readonly marginFolded: boolean;
}
/** Edits that wait for a change to be opened first. */
export interface PendingEdits {
  readonly fabric: string;
  readonly edits: readonly Edit[];
  /** The change that was opened for them, at the version that takes them: sent once more after a reload, it refuses them. */
  readonly into?: { readonly id: string; readonly version: number };
}
interface Work {
  /** The change whose margin is shown and that takes the edits. */
  readonly openChange: string | null;
  readonly pending: PendingEdits | null;
}

const KEY = 'anthemion';
/** Edits that wait are of one window: another one may wait with others. */
const PENDING_KEY = 'anthemion-pending';
function kept<T>(storage: Storage, key: string): T | null {
  try {
    return JSON.parse(storage.getItem(key) ?? 'null') as T | null;
  } catch {
    return null;
  }
}
const remembered = kept<{ preferences?: Preferences; openChange?: string | null }>(localStorage, KEY) ?? {};

const preferences = createSlice({
  name: 'preferences',
  initialState: (): Preferences => ({ sheet: 'system', marginFolded: false, ...remembered.preferences }),
  reducers: {
    sheetChosen: (s, a: PayloadAction<SheetChoice>) => ({ ...s, sheet: a.payload }),
    marginToggled: (s) => ({ ...s, marginFolded: !s.marginFolded }),
  },
});
const work = createSlice({
  name: 'work',
  initialState: (): Work => ({
    openChange: remembered.openChange ?? null,
    pending: kept<PendingEdits>(sessionStorage, PENDING_KEY),
  }),
  reducers: {
    changeOpened: (s, a: PayloadAction<string>) => ({ ...s, openChange: a.payload }),
    changeLeft: (s) => ({ ...s, openChange: null }),
    editsPended: (_s, a: PayloadAction<PendingEdits>) => ({ openChange: _s.openChange, pending: a.payload as never }),
    openedForPending: (s, a: PayloadAction<{ id: string; version: number }>) => ({
      openChange: a.payload.id,
      pending: s.pending && { ...s.pending, into: a.payload },
    }),
    pendingDropped: (s) => ({ ...s, pending: null }),
  },
  extraReducers: (b) => {
    b.addMatcher(api.endpoints.signOut.matchFulfilled, (s) => ({ ...s, pending: null }));
  },
});

const connection = createSlice({
  name: 'connection',
  initialState: { lost: false },
  reducers: {
    connectionLost: () => ({ lost: true }),
    connectionMended: () => ({ lost: false }),
  },
});

export const { connectionLost, connectionMended } = connection.actions;
export const { sheetChosen, marginToggled } = preferences.actions;
export const { changeOpened, changeLeft, editsPended, openedForPending, pendingDropped } = work.actions;

export const store = configureStore({
  reducer: {
    preferences: preferences.reducer,
    work: work.reducer,
    connection: connection.reducer,
    [api.reducerPath]: api.reducer,
  },
  middleware: (getDefault) => getDefault({ serializableCheck: false, immutableCheck: false }).concat(api.middleware),
});
let written: { readonly p: Preferences; readonly w: Work } | null = null;
store.subscribe(() => {
  const { preferences: p, work: w } = store.getState();
  if (written?.p === p && written.w === w) return;
  written = { p, w };
  localStorage.setItem(KEY, JSON.stringify({ preferences: p, openChange: w.openChange }));
  if (w.pending) sessionStorage.setItem(PENDING_KEY, JSON.stringify(w.pending));
  else sessionStorage.removeItem(PENDING_KEY);
});

export type AppStore = typeof store;
export type State = ReturnType<typeof store.getState>;
export const useAppSelector = useSelector.withTypes<State>();
export const useAppStore = useStore.withTypes<typeof store>();
export const useAppDispatch = useDispatch.withTypes<typeof store.dispatch>();
