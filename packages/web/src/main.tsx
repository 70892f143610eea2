import './quiet.ts'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { Provider } from 'react-redux'
import { RouterProvider } from 'react-router'
import { router } from './app/index.ts'
import { begin, store } from './state/index.ts'
import { Known } from './pieces/index.ts'
import './theme.css'

begin()
createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <Provider store={store}>
      <Known>
        <RouterProvider router={router} />
      </Known>
    </Provider>
  </StrictMode>,
)
