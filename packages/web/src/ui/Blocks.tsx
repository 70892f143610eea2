/** `/ui`: every building block in its states, in both themes side by side. Shown by what `./naranja demo --watch` builds alone. */
import type { CopyState, LinkState, Stations } from '@naranja/contract'
import { rate } from '@naranja/core/time'
import { type ReactNode, useState } from 'react'
import { type Chip, Chips } from './Chips.tsx'
import { FrameSlider } from './FrameSlider.tsx'
import { bytes, dataRate, duration, lasting, number, perCent, plural } from './format.ts'
import { Loading } from './Loading.tsx'
import { CopyMark, copyWords, NoticeMark, Segments, StateMark, stateWords } from './marks.tsx'
import { Only } from './Only.tsx'
import { Bar, Button, Choice, Dialog, Empty, Fact, Field, Figure, Head, inputLook, Kbd, Select } from './parts.tsx'
import { type Column, RowList } from './RowList.tsx'

/** Some blocks of one kind, under its name. */
function Kind({ name, children, tall = false }: { name: string; children: ReactNode; tall?: boolean }) {
  return (
    <section aria-label={name} className="border-b border-line px-4 py-3">
      <h2 className="m-0 pb-2 text-xs font-normal text-ink-3">{name}</h2>
      <div className={tall ? '' : 'flex flex-wrap items-center gap-x-3 gap-y-2'}>{children}</div>
    </section>
  )
}

const stations: readonly (readonly [string, Stations])[] = [
  ['nothing yet', ['open', 'open', 'open', 'open']],
  ['copied', ['reached', 'reached', 'open', 'open']],
  ['everything', ['reached', 'reached', 'reached', 'reached']],
  ['original away', ['away', 'reached', 'reached', 'open']],
  ['a wrong frame', ['reached', 'not-needed', 'reached', 'wrong']],
]

function Buttons() {
  return (
    <Kind name="Button">
      <Button main>Main</Button>
      <Button>Plain</Button>
      <Button quiet>Quiet</Button>
      <Button aria-pressed>Pressed</Button>
      <Button main disabled>
        Main, disabled
      </Button>
      <Button disabled>Plain, disabled</Button>
      <span className="text-ink-2">
        key <Kbd>Shift</Kbd> <Kbd>J</Kbd>
      </span>
    </Kind>
  )
}

/** What something is chosen or typed with. */
function Choosing() {
  const [choice, setChoice] = useState<'one' | 'two'>('one')
  const [option, setOption] = useState('a')
  const [frame, setFrame] = useState(30)
  const [chips, setChips] = useState<Chip[]>([
    { kind: 'value', of: 'name', part: { kind: 'piece', nth: 1 }, form: 'as-is' },
    { kind: 'text', text: '_' },
  ])
  const [only, setOnly] = useState(true)
  const options = [
    ['a', 'H.264 proxy 720'],
    ['b', 'ProRes proxy 1080'],
  ] as const
  return (
    <>
      <Kind name="Choice, Select, Only, FrameSlider">
        <Choice
          label="One of a few"
          value={choice}
          onChange={setChoice}
          options={[
            ['one', 'One'],
            ['two', 'Two'],
          ]}
        />
        <Select label="One of many" value={option} onChange={setOption} options={options} />
        <Select label="One of many, disabled" value="a" onChange={setOption} options={options} disabled />
        {only ? (
          <Only which="events of A001" onAll={() => setOnly(false)}>
            A001
          </Only>
        ) : (
          <Button quiet onClick={() => setOnly(true)}>
            only A001 again
          </Button>
        )}
        <div className="flex w-[260px] items-center gap-2">
          <FrameSlider clip={{ frames: 100, start: 90_000, rate: rate(25), drop: false }} frame={frame} onFrame={setFrame} />
        </div>
      </Kind>
      <Kind name="Field, Chips" tall>
        <div className="flex max-w-[420px] flex-col gap-3">
          <Field label="Name" hint="What a hint says">
            {(id) => <input id={id} className={inputLook} defaultValue="Ferry with timecode" />}
          </Field>
          <Field label="Spec">{(id) => <Select id={id} value={option} onChange={setOption} options={options} />}</Field>
          <Chips label="What a scene is made of" chips={chips} onChange={setChips} />
        </div>
      </Kind>
    </>
  )
}

function Marks() {
  return (
    <>
      <Kind name="Segments">
        {stations.map(([words, s]) => (
          <span key={words} className="inline-flex items-center gap-1.5">
            <Segments stations={s} /> {words}
          </span>
        ))}
      </Kind>
      <Kind name="StateMark">
        {(Object.keys(stateWords) as LinkState[]).map((s) => (
          <span key={s} className="inline-flex items-center gap-1.5">
            <StateMark state={s} /> {stateWords[s]}
          </span>
        ))}
        <span className="inline-flex items-center gap-1.5">
          <StateMark state="certain" away /> away
        </span>
      </Kind>
      <Kind name="CopyMark, NoticeMark">
        {(Object.keys(copyWords) as CopyState[]).map((s) => (
          <span key={s} className="inline-flex items-center gap-1.5">
            <CopyMark state={s} /> {copyWords[s]}
          </span>
        ))}
        {(['info', 'warning', 'error'] as const).map((s) => (
          <span key={s} className="inline-flex items-center gap-1.5">
            <NoticeMark severity={s} /> {s}
          </span>
        ))}
      </Kind>
    </>
  )
}

const columns: readonly Column<string>[] = [
  { head: 'Clip', width: '1fr', cell: (c) => c, look: 'mono' },
  { head: 'Roll', width: '80px', cell: () => 'A001', look: 'mono' },
]
const clips = ['A001C001_FERRY.mov', 'A001C002_FERRY.mov', 'A001C003_FERRY.mov']

function Showing() {
  const [chosen, setChosen] = useState('A001C002_FERRY.mov')
  const [open, setOpen] = useState(false)
  return (
    <>
      <Kind name="RowList" tall>
        <div className="flex h-[110px] flex-col">
          <RowList label="Clips" keys="arrows choose" rows={clips} id={(c) => c} columns={columns} selected={chosen} onSelect={setChosen} />
        </div>
      </Kind>
      <Kind name="Fact, Figure, Bar, numbers" tall>
        <dl className="m-0 grid max-w-[420px] grid-cols-[90px_1fr] gap-1">
          <Fact name="Coding">H.264 High, 8 bit 4:2:0</Fact>
          <Fact name="Timecode" mono>
            10:00:00:00
          </Fact>
        </dl>
        <div className="max-w-[420px]">
          <Figure name="Room">{bytes(43e9)}</Figure>
          <Figure name="Data rate">{dataRate(5e7)}</Figure>
          <Figure name="Lasts">
            {duration(93_125, rate(25))}, {lasting(42)} left, {perCent(0.42)}
          </Figure>
          <Figure name="Clips">
            {number(12_345)}, {plural(1, 'event')}, {plural(2, 'event')}
          </Figure>
        </div>
        <div className="flex gap-3 pt-3">
          <Bar share={0} label="Nothing done" /> <Bar share={0.4} label="Some done" /> <Bar share={1} label="All done" />
        </div>
      </Kind>
      <Kind name="Head, Loading, Empty, Dialog" tall>
        <Head title="Edit copies" sub={<span>8 of 8 clips have one</span>}>
          <Button>Rename …</Button>
          <Button onClick={() => setOpen(true)}>Open a dialog</Button>
        </Head>
        <Loading what="clips" />
        <Empty title="No originals yet" action={<Button main>Add originals</Button>} guide="/guide/originals">
          Take in the folders of your cards. Nothing is copied or changed.
        </Empty>
        <Dialog open={open} onClose={() => setOpen(false)} title="A dialog">
          <p className="m-0 p-4">It has the theme of the page.</p>
        </Dialog>
      </Kind>
    </>
  )
}

export function Blocks() {
  return (
    <main className="grid h-full grid-cols-2 overflow-auto">
      {(['dim', 'day'] as const).map((theme) => (
        <div key={theme} data-theme={theme} className="bg-ground text-ink">
          <h1 className="m-0 border-b border-line px-4 py-3 text-[15px] font-[650]">{theme === 'dim' ? 'Dim' : 'Day'}</h1>
          <Buttons />
          <Choosing />
          <Marks />
          <Showing />
        </div>
      ))}
    </main>
  )
}
