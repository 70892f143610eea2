/** How an instance's database and queue are set up: who may do what in them, and how they are started. */
import { userInfo } from 'node:os'
import type { Config } from '@naranja/server/config'

/** What the database is told at every start, as SQL. */
export function databaseStatements({ database: { password }, workers: { database: worker } }: Config): string {
  const statements = [
    'CREATE DATABASE IF NOT EXISTS naranja CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;',
    `CREATE USER IF NOT EXISTS 'naranja'@'127.0.0.1' IDENTIFIED BY '${password}';`,
    // A config that was lost or is of an older version has given itself another password.
    `ALTER USER 'naranja'@'127.0.0.1' IDENTIFIED BY '${password}';`,
    "GRANT ALL ON naranja.* TO 'naranja'@'127.0.0.1';",
    // Workers on other machines write what they have made, and change no table.
    `CREATE USER IF NOT EXISTS '${worker.user}'@'127.0.0.1' IDENTIFIED BY '${worker.password}';`,
    `ALTER USER '${worker.user}'@'127.0.0.1' IDENTIFIED BY '${worker.password}';`,
    `GRANT SELECT, INSERT, UPDATE, DELETE ON naranja.* TO '${worker.user}'@'127.0.0.1';`,
    // Saves are checked, and loaded, in a database beside.
    "GRANT ALL ON `naranja\\_beside\\_%`.* TO 'naranja'@'127.0.0.1';",
    `ALTER USER 'root'@'localhost' IDENTIFIED BY '${password}';`,
    "DELETE FROM mysql.global_priv WHERE User = '' OR (User = 'root' AND Host <> 'localhost');",
    'FLUSH PRIVILEGES;',
  ]
  return `${statements.join('\n')}\n`
}

/** Where the database keeps its files, and where it listens: on this machine only. */
interface DatabasePlace {
  readonly data: string
  readonly temporary: string
  readonly init: string
  readonly socket: string
  readonly pids: string
  readonly port: number
}

/** The arguments of its server. */
export const databaseArgs = ({ data, temporary, init, socket, pids, port }: DatabasePlace): string[] => [
  '--no-defaults',
  `--user=${userInfo().username}`,
  `--datadir=${data}`,
  `--port=${port}`,
  '--bind-address=127.0.0.1',
  `--socket=${socket}`,
  `--pid-file=${pids}`,
  `--tmpdir=${temporary}`,
  `--init-file=${init}`,
  '--skip-name-resolve',
  '--innodb-flush-log-at-trx-commit=1',
  // Workers write side by side; what one reads twice is never relied on to be the same.
  '--transaction-isolation=READ-COMMITTED',
  '--innodb-buffer-pool-size=256M',
  '--max-allowed-packet=256M',
  '--log-warnings=1',
]

/** The settings of the queue's server, which keeps its files in `folder`. */
export const queueSettings = ({ redis, workers: { redis: worker } }: Config, folder: string): string =>
  [
    `port ${redis.port}`,
    'bind 127.0.0.1',
    `dir "${folder}"`,
    'appendonly yes',
    'maxmemory-policy noeviction',
    `requirepass ${redis.password}`,
    // Workers on other machines: the queue and what they tell, but neither what lets browsers in nor the server itself.
    `user ${worker.user} on >${worker.password} ~bull:* ~version:* ~workers ~worker:limits ~served ~turns &* +@all -@admin -@dangerous +info +client|setname +client|id +client|list`,
    'daemonize no',
    'save ""',
    '',
  ].join('\n')
