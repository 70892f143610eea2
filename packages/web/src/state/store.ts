/** Server data lives in RTK Query, interface state in small slices, nothing twice. */
import type { Picked } from '../ui/index.ts'
import { configureStore, createSlice, type PayloadAction } from '@reduxjs/toolkit'
import { useDispatch, useSelector } from 'react-redux'
import { api, listen } from '../api/index.ts'

export interface Message {
  readonly id: number
  readonly text: string
  readonly details: readonly string[]
  readonly kind: 'said' | 'refused'
  /** The project in which it can be taken back, and which change it was; null: the last of this browser. */
  readonly undoIn: string | null
  readonly undoes: string | null
  /** A spec that was removed, and can be brought back. */
  readonly spec: string | null
  /** What this person wanted stands against what somebody else did meanwhile: by this name it can be had all the same. */
  readonly choice: string | null
  /** What takes it, where that is not putting mine in its place. */
  readonly takes: string | null
}

/** Adding originals: what is opened first, what is ticked already, and whether it is to be backed up. */
export interface Adding {
  readonly start?: Picked
  ticked?: Picked[]
  readonly backUp?: boolean
}
interface Interface {
  theme: 'dim' | 'day'
  /** The selected clip and event: one selection, shared by every picture of it. */
  clipId: string | null
  eventId: string | null
  messages: Message[]
  palette: boolean
  keys: boolean
  /** The dialog that adds originals: open, or open at a folder in which a name is marked. */
  adding: Adding | null
  /** Batches whose failure a person has read. */
  dismissed: string[]
  /** Specs that edit copies are made by next; empty for the default one. */
  specs: string[]
  /** A look that is tried: on one clip, or (null) on all. */
  look: { readonly id: string; readonly clipId: string | null } | null
  /** Scopes stand under the picture. */
  scopes: boolean
}

const kept = (key: string): string | null => {
  try {
    return localStorage.getItem(key)
  } catch {
    return null
  }
}
let next = 1
const slice = createSlice({
  name: 'interface',
  initialState: {
    theme: kept('theme') === 'day' ? 'day' : 'dim',
    clipId: null,
    eventId: null,
    messages: [],
    palette: false,
    keys: false,
    adding: null,
    dismissed: [],
    specs: [],
    look: null,
    scopes: false,
  } as Interface,
  reducers: {
    setTheme(s, { payload }: PayloadAction<'dim' | 'day'>) {
      s.theme = payload
    },
    selectClip(s, { payload }: PayloadAction<string | null>) {
      s.clipId = payload
    },
    selectEvent(s, { payload }: PayloadAction<string | null>) {
      s.eventId = payload
    },
    tell(
      s,
      {
        payload,
      }: PayloadAction<{
        text: string
        details?: readonly string[]
        kind?: Message['kind']
        undoIn?: string
        undoes?: string
        spec?: string
        choice?: string
        takes?: string
      }>,
    ) {
      s.messages = [
        ...s.messages.slice(-2),
        {
          id: next++,
          text: payload.text,
          details: [...(payload.details ?? [])],
          kind: payload.kind ?? 'said',
          undoIn: payload.undoIn ?? null,
          undoes: payload.undoes ?? null,
          spec: payload.spec ?? null,
          choice: payload.choice ?? null,
          takes: payload.takes ?? null,
        },
      ]
    },
    dismiss(s, { payload }: PayloadAction<number>) {
      s.messages = s.messages.filter((m) => m.id !== payload)
    },
    showPalette(s, { payload }: PayloadAction<boolean>) {
      s.palette = payload
    },
    showKeys(s, { payload }: PayloadAction<boolean>) {
      s.keys = payload
    },
    tryLook(s, { payload }: PayloadAction<Interface['look']>) {
      s.look = payload
    },
    showScopes(s, { payload }: PayloadAction<boolean>) {
      s.scopes = payload
    },
    dismissBatch(s, { payload }: PayloadAction<string>) {
      s.dismissed.push(payload)
    },
    chooseSpecs(s, { payload }: PayloadAction<string[]>) {
      s.specs = payload
    },
    showAdding(s, { payload }: PayloadAction<Interface['adding']>) {
      s.adding = payload
    },
  },
})

export const { setTheme, selectClip, selectEvent, tell, dismiss, showPalette, showKeys, chooseSpecs, dismissBatch, showAdding, tryLook, showScopes } =
  slice.actions

export const store = configureStore({
  reducer: { [api.reducerPath]: api.reducer, face: slice.reducer },
  middleware: (m) => m({ serializableCheck: false, immutableCheck: false }).concat(api.middleware),
})
export type AppStore = typeof store
export type State = ReturnType<typeof store.getState>
export const useAppDispatch = useDispatch.withTypes<typeof store.dispatch>()
export const useAppSelector = useSelector.withTypes<State>()

const wearTheme = () => {
  const { theme } = store.getState().face
  if (document.documentElement.dataset.theme === theme) return
  document.documentElement.dataset.theme = theme
  try {
    localStorage.setItem('theme', theme)
  } catch {
    // A browser that keeps nothing begins dim again.
  }
}

/** From here on the page wears its theme, and hears of what happens in the application. Called once, before anything is drawn. */
export function begin(): void {
  wearTheme()
  store.subscribe(wearTheme)
  listen(store, (text) => store.dispatch(tell({ text, kind: 'refused' })))
}
