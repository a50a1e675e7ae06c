import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useParams } from 'react-router'
import { api, ask, Refusal } from '../data/api'
import { typed } from '../data/keep'
import { anew, useMe, useStudy, useTrials } from '../data/queries'
import type { components } from '../data/schema'
import { Frame } from '../parts/Frame'
import { NotOpened } from '../parts/NotOpened'
import { Says, Skeleton } from '../parts/parts'

type Word = components['schemas']['GroupWordOut']

/** A group writes its prediction before its first trial, and afterwards what it says of the result; both stand on the poster. */
export function Say() {
  const { id = '' } = useParams()
  const me = useMe().data
  const study = useStudy(id, true)
  const trials = useTrials(id, true)
  const words = useQuery<Word[]>({
    queryKey: ['words', id],
    queryFn: () => ask(api.GET('/api/studies/{study_id}/words', { params: { path: { study_id: id } } })),
  })
  const bad = [study, trials, words].find((q) => q.isLoadingError)
  if (bad) return <NotOpened error={bad.error} again={() => void Promise.all([study.refetch(), trials.refetch(), words.refetch()])} />
  if (!study.data || !trials.data || !words.data) return <Skeleton lines={4} />
  const group = me?.seat?.label ?? ''
  const ran = trials.data.filter((t) => t.state === 'kept' && !t.practice && t.group === group).length
  return (
    <Frame study={study.data} title={`Say: ${study.data.title}`}>
      <Form key={id} study={id} group={group} question={study.data.question} ran={ran} known={words.data.find((w) => w.group_label === group)} />
    </Frame>
  )
}

function Form({ study, group, question, ran, known }: { study: string; group: string; question: string; ran: number; known: Word | undefined }) {
  const kept = (name: 'predicts' | 'says') => typed.get(`say:${study}:${group}:${name}`) || (known?.[name] ?? '')
  const [text, setText] = useState({ predicts: kept('predicts'), says: kept('says') })
  const [told, setTold] = useState<{ text: string; bad: boolean }>({ text: '', bad: false })
  const [busy, setBusy] = useState(false)
  const write = (name: 'predicts' | 'says', value: string) => {
    typed.set(`say:${study}:${group}:${name}`, value)
    setText((t) => ({ ...t, [name]: value }))
    setTold({ text: '', bad: false })
  }
  const send = async () => {
    setBusy(true)
    try {
      const path = { study_id: study, group: group || 'the class' }
      await ask(api.PUT('/api/studies/{study_id}/words/{group}', { params: { path }, body: { ...text, revision: known?.revision ?? 0 } }))
      for (const name of ['predicts', 'says']) typed.set(`say:${study}:${group}:${name}`, '')
      setTold({ text: 'It is with the teacher, and on the next poster.', bad: false })
      await anew(['words', study])
    } catch (why) {
      const theirs =
        why instanceof Refusal && why.code === 'words_changed'
          ? ` There it says: ${Object.values((why.facts.theirs as Record<string, string>) ?? {})
              .filter(Boolean)
              .join(' / ')}`
          : ''
      setTold({ text: `${why instanceof Error ? why.message : String(why)}${theirs}`, bad: true })
      await anew(['words', study])
    } finally {
      setBusy(false)
    }
  }
  const changed = text.predicts.trim() !== (known?.predicts ?? '') || text.says.trim() !== (known?.says ?? '')
  return (
    <form
      className="mx-auto grid w-full max-w-[44rem] content-start gap-5 px-4 py-6 md:px-8"
      onSubmit={(e) => {
        e.preventDefault()
        void send()
      }}
    >
      <h1 className="m-0 text-[2.6rem] leading-none">In your own words</h1>
      <p className="m-0 text-[1.15rem]">{question}</p>
      <label className="grid gap-1">
        <span className="text-[1.15rem] font-semibold">What do you predict, and why?</span>
        <textarea
          className="field min-h-[7rem] text-[1.15rem]"
          maxLength={400}
          value={text.predicts}
          readOnly={ran > 0}
          aria-describedby="predicts-says"
          onChange={(e) => write('predicts', e.target.value)}
        />
        <span id="predicts-says" className="text-quiet">
          {ran > 0 ? 'Your first trial is in: the prediction stands as it was.' : 'Before your first trial; afterwards it stands.'}
        </span>
      </label>
      <label className="grid gap-1">
        <span className="text-[1.15rem] font-semibold">What did you find out?</span>
        <textarea className="field min-h-[7rem] text-[1.15rem]" maxLength={400} value={text.says} onChange={(e) => write('says', e.target.value)} />
        <span className="text-quiet">A sentence or two for the poster. No names of people.</span>
      </label>
      <button type="submit" className="btn btn-act min-h-[64px] text-[1.2rem]" disabled={busy || !changed}>
        Write it down
      </button>
      <div role="status">{told.text ? told.bad ? <Says>{told.text}</Says> : <p className="m-0">{told.text}</p> : null}</div>
    </form>
  )
}
