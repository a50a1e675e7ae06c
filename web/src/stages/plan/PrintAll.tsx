import { type ReactNode, useState } from 'react'
import { Link, useParams } from 'react-router'
import type { Ahead, Family, Shopping, Study, Templates } from '../../data/api'
import { useAhead, useFamilies, useShopping, useStudy, useTemplates } from '../../data/queries'
import { counted } from '../../parts/counted'
import { Frame } from '../../parts/Frame'
import { NotOpened } from '../../parts/NotOpened'
import { PaperHead } from '../../parts/PaperHead'
import { Skeleton, Tick } from '../../parts/parts'
import { PaperSheet } from '../../planning/PaperSheet'
import { PlanTabs } from './PlanTabs'
import { BuildSheet } from './paper/BuildSheet'
import { useOwnPictures } from './paper/OwnPictures'
import { PlanOnPaper } from './paper/PlanOnPaper'
import { usePrinter } from './paper/printer'
import { TemplateSheets } from './paper/TemplateSheets'
import { ShoppingList } from './ShoppingList'

/** Everything for the lesson as one print job, in the order in which it is handed out. */
export function PrintAll() {
  const { id = '' } = useParams()
  const printer = usePrinter()
  const [study, shopping, made, families, ahead] = [useStudy(id), useShopping(id), useTemplates(id, printer), useFamilies(), useAhead(id)]
  const wrong = [study, shopping, made, families].find((q) => q.isLoadingError)
  if (wrong) return <NotOpened error={wrong.error} again={() => void Promise.all([study.refetch(), shopping.refetch(), made.refetch(), families.refetch()])} />
  if (!study.data || !shopping.data || !made.data || !families.data) return <Skeleton lines={6} />
  const family = families.data.find((f) => f.id === study.data.draft.family)
  return <Opened key={id} study={study.data} shopping={shopping.data} made={made.data} family={family} ahead={ahead.data} />
}

const PARTS = ['plan', 'shopping', 'templates', 'build', 'sheet'] as const
type PartName = (typeof PARTS)[number]

function Opened({
  study,
  shopping,
  made,
  family,
  ahead,
}: {
  study: Study
  shopping: Shopping
  made: Templates
  family: Family | undefined
  ahead: Ahead | undefined
}) {
  const { draft } = study
  const [off, setOff] = useState<readonly PartName[]>([])
  const pictures = useOwnPictures(study.id)
  const groups = made.groups.length ? made.groups : ['']
  const turnsOf = (g: string) => study.turns.filter((t) => !g || t.group === g)
  const sets = made.shared ? [''] : groups
  const templatePages = made.layout.sheets.length * sets.length + made.lane_layout.sheets.length
  const says: Record<PartName, string> = {
    plan: 'The plan',
    shopping: 'The shopping list',
    templates: `The templates: ${counted(templatePages, 'page')}${made.shared && made.groups.length > 1 ? ', one pattern to share' : made.groups.length > 1 ? `, ${made.layout.sheets.length} for each group` : ''}`,
    build: made.groups.length > 1 ? 'How it is built, one for each group' : 'How it is built',
    sheet: study.turns.length
      ? made.groups.length > 1
        ? 'The recording sheet of each group'
        : 'The recording sheet'
      : 'The recording sheet: the plan has no turns yet',
  }
  const on = (part: PartName) => !off.includes(part)
  return (
    <Frame study={study} title={`For the lesson: ${study.title}`}>
      <PlanTabs id={study.id} />
      <div className="no-print mx-auto grid w-full max-w-[60rem] gap-4 px-4 py-6 md:px-8">
        <h1 className="m-0 text-[2.6rem]">Everything for the lesson</h1>
        <p className="m-0 max-w-[46rem] text-[1.1rem]">
          One print job, in the order in which it is handed out. Print at 100 %, not “fit to page”: the templates are at true size.
        </p>
        <div className="border-t-2 border-ink pt-2">
          {PARTS.map((part) => (
            <Tick key={part} checked={on(part)} onChange={(want) => setOff(want ? off.filter((p) => p !== part) : [...off, part])}>
              {says[part]}
            </Tick>
          ))}
        </div>
        {made.problems.length ? (
          <p className="m-0">
            {made.problems.map((p) => p.says).join(' ')}{' '}
            <Link className="font-semibold text-ink underline underline-offset-4" to={`/study/${study.id}/plan/templates`}>
              To the templates
            </Link>
          </p>
        ) : null}
        <div className="flex flex-wrap gap-3">
          <button type="button" className="btn btn-act" disabled={off.length === PARTS.length} onClick={() => window.print()}>
            Print
          </button>
          <Link className="btn btn-plain" to={`/study/${study.id}/plan/templates`}>
            Paper, sizes and printer
          </Link>
        </div>
      </div>
      <div className="hidden print:block" data-print-job>
        {on('plan') ? (
          <Page>
            <PlanOnPaper study={study} ahead={ahead} />
          </Page>
        ) : null}
        {on('shopping') ? (
          <Page>
            <ShoppingList study={study} shopping={shopping} money={draft.materials?.money ?? ''} tools={family?.tools ?? []} />
            {made.notes.length ? (
              <ul className="m-0 mt-3 pl-5">
                {made.notes.map((n) => (
                  <li key={n}>{n}</li>
                ))}
              </ul>
            ) : null}
          </Page>
        ) : null}
        {on('templates') ? <TemplateSheets study={study} draft={draft} made={made} groups={sets} lane /> : null}
        {on('build') && made.build
          ? groups.map((g) => (
              <Page key={g}>
                {g ? <p className="m-0 font-bold">{g}</p> : null}
                {made.build ? <BuildSheet build={made.build} draft={draft} level={draft.reading_level ?? 'middle'} pictures={pictures.sources} /> : null}
              </Page>
            ))
          : null}
        {on('sheet')
          ? groups.map((g) => (turnsOf(g).length ? <PaperSheet key={g} study={study} family={family} group={g} turns={turnsOf(g)} kept={NONE} /> : null))
          : null}
        {on('sheet') && !study.turns.length ? <PaperHead study={study} what="recording sheet: the plan has no turns yet" /> : null}
      </div>
    </Frame>
  )
}

const NONE: ReadonlySet<string> = new Set()

function Page({ children }: { children: ReactNode }) {
  return <div className="break-after-page">{children}</div>
}
