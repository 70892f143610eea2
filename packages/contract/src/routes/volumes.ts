/** Routes of drives, folders and places. */
import { z } from 'zod'
import {
  FolderListing,
  Id,
  KnownPlace,
  NewFolder,
  NewVolume,
  Ok,
  PinPlace,
  Place,
  ReaderAction,
  ReaderCardShape,
  Ref,
  TargetAsk,
  TargetLook,
  Targets,
  TypedPath,
  TypedPlace,
  Volume,
} from '../schemas/index.ts'
import type { Route } from './route.ts'

export const volumesRoutes = {
  volumes: {
    method: 'GET',
    path: '/volumes',
    query: z.object({ projectId: Id.optional() }),
    answer: z.array(Volume),
    follows: ['volumes', 'clips', 'targets'],
  },
  openVolume: { method: 'POST', path: '/volumes', body: NewVolume, answer: Volume },
  folder: { method: 'GET', path: '/volumes/:volumeId/folder', query: z.object({ ref: Ref.default('') }), answer: FolderListing, follows: ['volumes'] },
  addFolder: { method: 'POST', path: '/volumes/:volumeId/folder', body: NewFolder, answer: Place, moves: ['volumes'] },
  markVolume: { method: 'POST', path: '/volumes/:volumeId/marker', answer: Ok, moves: ['volumes'] },
  places: { method: 'GET', path: '/places', answer: z.array(KnownPlace), follows: ['volumes'] },
  pinPlace: { method: 'POST', path: '/places', body: PinPlace, answer: Ok, moves: ['volumes'] },
  typedPlace: { method: 'POST', path: '/places/typed', body: TypedPath, answer: TypedPlace, moves: ['volumes'] },
  targets: { method: 'GET', path: '/projects/:projectId/targets', answer: Targets, follows: ['targets', 'volumes'] },
  targetLook: { method: 'GET', path: '/target', query: TargetAsk, answer: TargetLook, follows: ['volumes', 'clips'] },
  reader: { method: 'GET', path: '/reader', answer: z.array(ReaderCardShape), follows: ['volumes'] },
  card: { method: 'POST', path: '/reader', body: ReaderAction, answer: Ok, moves: ['volumes'] },
  forgetVolume: { method: 'DELETE', path: '/volumes/:volumeId', answer: Ok },
} as const satisfies Record<string, Route>
