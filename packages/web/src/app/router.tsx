/** Every screen has an address. */
import { createBrowserRouter, Navigate } from 'react-router'
import { Conform } from '../steps/conform/Conform.tsx'
import { Copies } from '../steps/copies/Copies.tsx'
import { Changes } from '../steps/cutlists/Changes.tsx'
import { CutLists } from '../steps/cutlists/CutLists.tsx'
import { Masters } from '../steps/masters/Masters.tsx'
import { Originals } from '../steps/originals/Originals.tsx'
import { ProjectPage } from '../steps/project/ProjectPage.tsx'
import { QueuePage } from '../steps/queue/QueuePage.tsx'
import { Reconnect } from '../steps/reconnect/Reconnect.tsx'
import { SpacePage } from '../steps/space/SpacePage.tsx'
import { Specs } from '../steps/specs/Specs.tsx'
import { Settings } from '../steps/settings/Settings.tsx'
import { Welcome } from '../steps/welcome/Welcome.tsx'
import { Shell } from './Shell.tsx'

export const router = createBrowserRouter([
  { path: '/', element: <Welcome /> },
  {
    path: '/p/:projectId',
    element: <Shell />,
    children: [
      { index: true, element: <ProjectPage /> },
      { path: 'originals', element: <Originals /> },
      { path: 'copies/:part?', element: <Copies /> },
      { path: 'cuts/:cutId?', element: <CutLists /> },
      { path: 'cuts/:cutId/changes/:fromId', element: <Changes /> },
      { path: 'reconnect/:cutId?', element: <Reconnect /> },
      { path: 'conform/:cutId?', element: <Conform /> },
      { path: 'masters/:masterId?', element: <Masters /> },
      { path: 'space', element: <SpacePage /> },
      { path: 'specs/:code?', element: <Specs /> },
      { path: 'queue', element: <QueuePage /> },
      { path: 'settings', element: <Settings /> },
    ],
  },
  { path: '*', element: <Navigate to="/" replace /> },
])
