import './quiet.ts'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { Provider } from 'react-redux'
import { RouterProvider } from 'react-router'
import { router } from './app/router.tsx'
import { store } from './app/store.ts'
import { Known } from './app/Warnings.tsx'
import './theme.css'

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <Provider store={store}>
      <Known>
        <RouterProvider router={router} />
      </Known>
    </Provider>
  </StrictMode>,
)
