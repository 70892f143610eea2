import './quiet.ts'
import { StrictMode, Suspense } from 'react'
import { createRoot } from 'react-dom/client'
import { Provider } from 'react-redux'
import { RouterProvider } from 'react-router'
import { router } from './app/index.ts'
import { begin, store } from './state/index.ts'
import { OnlyKnownBrowsers } from './pieces/index.ts'
import { loadRest } from './ui/index.ts'
import './theme.css'

begin()
createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <Provider store={store}>
      <OnlyKnownBrowsers>
        <Suspense fallback={null}>
          <RouterProvider router={router} />
        </Suspense>
      </OnlyKnownBrowsers>
    </Provider>
  </StrictMode>,
)
loadRest()
