import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { Provider } from 'react-redux'
import { RouterProvider } from 'react-router'
import { router } from './app/router.tsx'
import { store } from './app/store.ts'
import { config } from 'zod'
import './theme.css'

// The page may not compile code at run time (its content security policy says so).
config({ jitless: true })

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <Provider store={store}>
      <RouterProvider router={router} />
    </Provider>
  </StrictMode>,
)
