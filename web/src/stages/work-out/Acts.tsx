import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import type { Act, Study } from '../../data/api'
import { setFinished } from '../../data/studies'
import { patchStudy } from '../../data/usePlan'
import { ITEM, Item, Menu } from '../../parts/Menu'
import { Says, Told } from '../../parts/parts'

const WITHIN = { block: 'block', group: 'group', person: 'person', device: 'device' } as const
type WithinName = keyof typeof WITHIN

/** The control of what a finding advises, beside it. */
export function ActControl({ act, study }: { act: Act; study: Study }) {
  const at = `/study/${study.id}`
  const column = act.column ?? ''
  if (act.kind === 'within') return column in WITHIN ? <WithinButton study={study} to={column as WithinName} label={`Compare within each ${column}`} /> : null
  // in design rounds only the two newest versions are meant: further trials of theirs are run beside the plan
  if (act.kind === 'more' && study.draft.study_kind !== 'design_rounds') return <MoreButton study={study} more={act.more ?? 2} />
  if (act.kind === 'decide')
    return (
      <Link to={`${at}/decide`} className="btn btn-act no-print mt-1">
        Decide what comes next
      </Link>
    )
  const [to, label] =
    act.kind === 'trials'
      ? [`${at}/trials${act.rows.length ? `?only=${act.rows.join(',')}` : ''}`, act.rows.length === 1 ? 'Look at that trial' : 'Look at these trials']
      : act.kind === 'run' || act.kind === 'more'
        ? study.kept < study.planned || act.kind === 'more'
          ? [`${at}/run`, 'Go to the run']
          : [`${at}/plan`, 'Plan more repeats']
        : act.kind === 'build'
          ? [`${at}/build`, 'Go to the versions']
          : [`${at}/plan`, 'Open the plan']
  return (
    <Link to={to} className="btn btn-plain no-print px-0">
      {label}
    </Link>
  )
}

/** Adds repeats to the plan, and goes to the run. */
function MoreButton({ study, more }: { study: Study; more: number }) {
  const [says, setSays] = useState('')
  const go = useNavigate()
  const add = async () => {
    try {
      await patchStudy(study, { draft: { ...study.draft, repeats: (study.draft.repeats ?? 0) + more } })
      await go(`/study/${study.id}/run`)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <>
      <button type="button" className="btn btn-act no-print mt-1" onClick={() => void add()}>
        Add {more === 1 ? 'one repeat' : `${more} repeats`} and run
      </button>
      <Told says={says} />
    </>
  )
}

function WithinButton({ study, to, label }: { study: Study; to: WithinName | ''; label: string }) {
  const [says, setSays] = useState('')
  const set = async () => {
    try {
      await patchStudy(study, { draft: { ...study.draft, within: to } })
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <>
      <button type="button" className="btn btn-plain no-print px-0" onClick={() => void set()}>
        {label}
      </button>
      {says ? <Says>{says}</Says> : null}
    </>
  )
}

/** That the trials are compared within something, and the way back. */
export function Within({ study }: { study: Study }) {
  const within = study.draft.within
  if (!within) return null
  return (
    <p className="m-0 mt-3" data-within>
      Compared within each {within}. <WithinButton study={study} to="" label="Compare all trials together" />
    </p>
  )
}

/** What is done with a verdict, in one line; what leaves the house is behind one button. */
export function Out({ study }: { study: Study }) {
  const [says, setSays] = useState('')
  const finish = async () => {
    try {
      await setFinished(study, !study.finished)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  const at = `/study/${study.id}`
  const files = `/api/studies/${study.id}`
  return (
    <div className="no-print mt-5 flex flex-wrap gap-x-3.5 border-t-2 border-hair pt-2 [&>.btn]:px-0" data-acts>
      {study.kept ? (
        <>
          <Link className="btn btn-plain" to={`${at}/show`}>
            Show it
          </Link>
          <Link className="btn btn-plain" to={`${at}/decide`}>
            Decide
          </Link>
        </>
      ) : null}
      <Link className="btn btn-plain" to={`${at}/sums`}>
        Check sums
      </Link>
      <Menu label="More" className="btn btn-plain">
        <Item className={ITEM} asChild>
          <Link to={`${at}/trials`}>All trials</Link>
        </Item>
        {study.kept ? (
          <Item className={ITEM} asChild>
            <Link to={`/together?study=${study.id}`}>The class together</Link>
          </Item>
        ) : null}
        <Item className={ITEM} onSelect={() => void finish()}>
          {study.finished ? 'Open it again' : 'Mark as finished'}
        </Item>
      </Menu>
      <Menu label="Take it along" className="btn btn-plain">
        <Item className={ITEM} asChild>
          <a href={`${files}/trials.csv`} download>
            Results table (CSV)
          </a>
        </Item>
        <Item className={ITEM} asChild>
          <a href={`${files}/study.ods`} download>
            Spreadsheet with its sums (ODS)
          </a>
        </Item>
        <Item className={ITEM} asChild>
          <a href={`${files}/package.zip`} download={`${study.title}.zip`}>
            Whole study (data package)
          </a>
        </Item>
        <Item className={ITEM} onSelect={() => setTimeout(() => window.print())}>
          Print
        </Item>
      </Menu>
      {says ? <Says>{says}</Says> : null}
    </div>
  )
}
