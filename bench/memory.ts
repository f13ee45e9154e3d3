/** How much memory Chromium takes. */
import { execSync } from 'node:child_process'

/** All processes of the browser together, proportionally where they share. */
export function memoryOfChromium(): number {
  const pids = execSync('pgrep -f /chromium', { encoding: 'utf8' }).trim().split('\n')
  return pids.reduce((sum, pid) => {
    try {
      return sum + Number(/^Pss:\s+(\d+)/m.exec(execSync(`cat /proc/${pid}/smaps_rollup 2>/dev/null`, { encoding: 'utf8' }))?.[1] ?? 0) / 1_024
    } catch {
      return sum
    }
  }, 0)
}
