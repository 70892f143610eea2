/** `./naranja COMMAND`: what each command is, and nothing else. */
import { say } from './base/index.ts'

const help = `Naranja: edit copies, reconnection and conform, exact to the frame.

  ./naranja demo     the demo project, in a browser at the address it prints
  ./naranja start    the same with your own media
  ./naranja start --listen [PORT]   opens it for workers on other machines
  ./naranja demo --watch, start --watch   build again what is saved: for whoever works on Naranja itself
  ./naranja address  a new address for another browser: each lets one in, once
  ./naranja worker   works for an instance on another machine (./naranja worker --help)
  ./naranja stop     ends everything the two have started
  ./naranja job      the whole job without the interface (./naranja job --help)
  ./naranja backup   verified backups of a card, to one place or more (./naranja backup --help)
  ./naranja verify   checks backups against the history beside them (./naranja verify --help)
  ./naranja save --to FILE      everything but media, as one file (./naranja save --help)
  ./naranja restore FILE        and back
  ./naranja test     types, lint and all tests
  ./naranja test --faults [N]   whole jobs while N things go wrong at random moments
  ./naranja fuzz     cut lists bent at random, a million of them (./naranja fuzz NUMBER)
                     or whole jobs made up at random and proven (./naranja fuzz --jobs N --seed S),
                     or a long cut and a long clip (./naranja fuzz --events 3000)
  ./naranja bench    measured figures, as ratios within one run (--json FILE)`

const [command = 'help', ...args] = process.argv.slice(2)
try {
  if (command === 'demo') await (await import('./instance/index.ts')).demo(args)
  else if (command === 'start') await (await import('./instance/index.ts')).start(args)
  else if (command === 'worker') process.exitCode = await (await import('./join.ts')).worker(args)
  else if (command === 'address') process.exitCode = await (await import('./instance/index.ts')).address()
  else if (command === 'stop') await (await import('./instance/index.ts')).stop()
  else if (command === 'job') process.exitCode = await (await import('./job/index.ts')).job(args)
  else if (command === 'backup') process.exitCode = await (await import('./backup.ts')).backup(args)
  else if (command === 'verify') process.exitCode = await (await import('./backup.ts')).verifyCommand(args)
  else if (command === 'save') process.exitCode = await (await import('./save.ts')).save(args)
  else if (command === 'restore') process.exitCode = await (await import('./save.ts')).restore(args)
  else if (command === 'test') process.exitCode = await (await import('./test.ts')).test(args)
  else if (command === 'fuzz') process.exitCode = await (await import('./fuzz.ts')).fuzzCommand(args)
  else if (command === 'bench') process.exitCode = await (await import('./bench/index.ts')).bench(args)
  else if (/^(help|--help|-h)$/.test(command)) process.stdout.write(`${help}\n`)
  else {
    say(`There is no command "${command}".\n\n${help}`)
    process.exitCode = 2
  }
} catch (e) {
  say(e instanceof Error ? e.message : String(e))
  process.exitCode = 1
}
// Open connections of a finished command keep nobody waiting.
process.exit()
