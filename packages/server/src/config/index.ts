/** How an instance runs: one file, which the start writes and every process reads. */
export { Config, configPath, pageScript, readConfig } from './config.ts'
