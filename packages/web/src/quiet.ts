/** The page may not compile code at run time (its content security policy says so); said before any schema is made. */
import { config } from 'zod'

config({ jitless: true })
