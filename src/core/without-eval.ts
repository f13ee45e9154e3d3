/**
 * To be loaded before anything else, by the page and by every worker: the policy lets no text become code, and schemas that try whether it does
 * are a complaint in the console.
 */
import { config } from 'zod'

config({ jitless: true })
