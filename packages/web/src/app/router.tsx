/** Every screen has an address. */
import { createBrowserRouter, Navigate } from 'react-router'
import { Guide } from '../guide/index.ts'
import { Conform } from '../steps/conform/index.ts'
import { Copies } from '../steps/copies/index.ts'
import { Changes, CutLists } from '../steps/cutlists/index.ts'
import { Masters } from '../steps/masters/index.ts'
import { Originals } from '../steps/originals/index.ts'
import { ProjectPage } from '../steps/project/index.ts'
import { QueuePage } from '../steps/queue/index.ts'
import { Reconnect } from '../steps/reconnect/index.ts'
import { SpacePage } from '../steps/space/index.ts'
import { Specs } from '../steps/specs/index.ts'
import { Settings } from '../steps/settings/index.ts'
import { Welcome } from '../steps/welcome/index.ts'
import { BlocksPage } from '../ui/index.ts'
import { Broken } from './Broken.tsx'
import { Shell } from './Shell.tsx'

export const router = createBrowserRouter([
  {
    errorElement: <Broken />,
    children: [
      { path: '/', element: <Welcome /> },
      {
        path: '/p/:projectId',
        element: <Shell />,
        children: [
          {
            // A screen that cannot be shown leaves the way to the others.
            errorElement: <Broken />,
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
        ],
      },
      { path: '/guide/:page?', element: <Guide /> },
      ...(BlocksPage ? [{ path: '/ui', element: <BlocksPage /> }] : []),
      { path: '*', element: <Navigate to="/" replace /> },
    ],
  },
])
