import { counted } from '../../parts/counted'
import { type PointerEvent, useRef, useState } from 'react'
import { api, ask, Refusal, type Version } from '../../data/api'
import { putPhoto, queue } from '../../machines/saveQueue'
import { Told } from '../../parts/parts'
import { photoOf, photoSent, tookVersion } from './useVersion'

type Stroke = [number, number][]
const MOST_POINTS = 400
const path = (stroke: Stroke) => stroke.map(([x, y], i) => `${i ? 'L' : 'M'} ${(x * 100).toFixed(1)} ${(y * 100).toFixed(1)}`).join(' ')

/** How it looks: a sketch drawn here with a finger or a pen, or a photo from the tablet's camera. */
export function Picture({ study, version, sketch, onSketch }: { study: string; version: Version; sketch: Stroke[]; onSketch: (strokes: Stroke[]) => void }) {
  const [drawing, setDrawing] = useState<Stroke | null>(null)
  const [says, setSays] = useState('')
  const [busy, setBusy] = useState(false)
  const board = useRef<SVGSVGElement>(null)
  const at = (e: PointerEvent): [number, number] => {
    const box = board.current?.getBoundingClientRect()
    const clip = (v: number) => Math.round(Math.min(1, Math.max(0, v)) * 1000) / 1000
    return box ? [clip((e.clientX - box.left) / box.width), clip((e.clientY - box.top) / box.height)] : [0, 0]
  }
  const end = () => {
    if (drawing && drawing.length > 1) onSketch([...sketch, drawing])
    setDrawing(null)
  }
  const later = (file: Blob) => queue.add({ kind: 'photo', studyId: study, id: version.id, body: file })
  const photo = async (file: File | undefined) => {
    if (!file) return
    setBusy(true)
    setSays('')
    try {
      if (version.revision === 0) return await later(file) // the version itself waits to be sent
      const taken = await putPhoto(study, version.id, file)
      photoSent(version.id)
      tookVersion(study, taken)
    } catch (why) {
      if (why instanceof Refusal && why.away) await later(file)
      else setSays(why instanceof Error ? why.message : String(why))
    } finally {
      setBusy(false)
    }
  }
  const away = async () => {
    try {
      tookVersion(
        study,
        (await ask(
          api.DELETE('/api/studies/{study_id}/versions/{version_id}/photo', { params: { path: { study_id: study, version_id: version.id } } }),
        )) as Version,
      )
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <div className="grid gap-4">
      {version.photo ? (
        <figure className="m-0">
          <img
            className="max-h-[22rem] w-full object-contain object-left"
            src={photoOf(study, version.id)}
            alt={`${version.device}, version ${version.number}`}
          />
        </figure>
      ) : null}
      <svg
        ref={board}
        viewBox="0 0 100 62"
        className="w-full touch-none border-2 border-ink bg-floor"
        role="img"
        aria-label={sketch.length ? `Sketch in ${counted(sketch.length, 'stroke')}` : 'Empty sheet for a sketch: draw with a finger, a pen or the mouse'}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId)
          setDrawing([at(e)])
        }}
        onPointerMove={(e) => (drawing && drawing.length < MOST_POINTS ? setDrawing([...drawing, at(e)]) : undefined)}
        onPointerUp={end}
        onPointerCancel={end}
      >
        <g transform="scale(1 0.62)" fill="none" stroke="var(--ink)" strokeWidth={0.9} strokeLinecap="round" strokeLinejoin="round">
          {[...sketch, ...(drawing ? [drawing] : [])].map((stroke, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a stroke has no identity but its place
            <path key={i} d={path(stroke)} vectorEffect="non-scaling-stroke" style={{ strokeWidth: 3 }} />
          ))}
        </g>
      </svg>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <button type="button" className="btn btn-plain" disabled={!sketch.length} onClick={() => onSketch(sketch.slice(0, -1))}>
          Undo the last stroke
        </button>
        <label className="btn cursor-pointer has-focus-visible:outline-3">
          {busy ? 'Sending …' : version.photo ? 'Another photo' : 'Photo of it'}
          <input
            type="file"
            accept="image/jpeg,image/png,image/webp"
            capture="environment"
            className="sr-only"
            disabled={busy}
            onChange={(e) => void photo(e.target.files?.[0]).then(() => (e.target.value = ''))}
          />
        </label>
        {version.photo ? (
          <button type="button" className="btn btn-plain" onClick={() => void away()}>
            Remove the photo
          </button>
        ) : null}
      </div>
      <p className="m-0 text-quiet">A photo shows the device, not people. It is made small, and where and with what it was taken is removed.</p>
      <Told says={says} />
    </div>
  )
}
