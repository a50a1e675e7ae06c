import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'
import { api, ask, Refusal } from '../data/api'
import { Skeleton, Trouble } from '../parts/parts'

/** What is done once on each kind of tablet, told by what its settings show. */
const KINDS = [
  {
    kind: 'A tablet that asks whether a profile may be loaded',
    steps: [
      'Press “Take the certificate” and allow the download.',
      'Open the settings: at the top, or under General, stands the profile that was loaded. Install it.',
      'Then General, About, and at the bottom the trust in certificates: switch on the one of this machine.',
    ],
  },
  {
    kind: 'A tablet or phone that saves the file',
    steps: [
      'Press “Take the certificate”.',
      'Open the settings, Security, then what is said of certificates (credentials, encryption), and install one: a certificate of an authority (CA).',
      'Choose the file bendro-authority.crt. The warning that others could read along is about whoever keeps this machine.',
    ],
  },
  {
    kind: 'A laptop or a school’s desk machine',
    steps: [
      'Press “Take the certificate”.',
      'Open the settings of the browser, Privacy and security, Certificates, Authorities, and import the file for websites.',
      'Close the browser and open it again.',
    ],
  },
] as const

/** How a tablet comes to trust the certificate of this machine, once. */
export function Trust() {
  const found = useQuery({ queryKey: ['trust'], retry: false, queryFn: () => ask(api.GET('/api/trust')) })
  useEffect(() => {
    document.title = 'Trust this machine – Bendro'
  }, [])
  const none = found.error instanceof Refusal && found.error.status === 404
  return (
    <main className="mx-auto w-full max-w-[60rem] px-4 py-6 md:px-8">
      <h1 className="m-0 border-b-2 border-ink pb-2 text-[1.9rem]">Trust this machine</h1>
      {none ? (
        <p className="lead">Nothing needs to be done here: this Bendro has no certificate of its own. Open it as your school tells you.</p>
      ) : found.isError ? (
        <Trouble error={found.error} again={() => void found.refetch()} />
      ) : !found.data ? (
        <Skeleton lines={6} />
      ) : (
        <>
          <p className="mt-4 max-w-[46rem] text-[1.1rem]">
            The camera, the microphone and opening again without a network ask for an address with https. This machine made a certificate of its own for that,
            so each tablet is told once that it may be trusted. Where your school’s technician looks after the tablets, leave this to them.
          </p>
          <p className="my-5">
            <a className="btn btn-act no-underline" href="/api/trust/authority.crt" download>
              Take the certificate
            </a>
          </p>
          <div className="mt-6 grid gap-8 md:grid-cols-3">
            {KINDS.map(({ kind, steps }) => (
              <section key={kind} aria-label={kind}>
                <h2 className="m-0 text-[1.15rem]">{kind}</h2>
                <ol className="mt-2 grid list-decimal gap-2 pl-5">
                  {steps.map((s) => (
                    <li key={s}>{s}</li>
                  ))}
                </ol>
              </section>
            ))}
          </div>
          <section aria-label="Is it the right one?" className="hair mt-8 pt-5">
            <h2 className="m-0 text-[1.15rem]">Is it the right one?</h2>
            <p className="mt-2 max-w-[46rem]">
              It is called <strong>{found.data.name}</strong> and is good until {day(found.data.until)}. The tablet shows its fingerprint (SHA‑256); the window
              where Bendro was started shows the same:
            </p>
            <p className="num my-3 max-w-[46rem] text-[1.05rem] break-words" data-fingerprint>
              {found.data.fingerprint}
            </p>
            {Math.abs(Date.now() - Date.parse(found.data.today)) > DAY ? (
              <p>
                The clock of this tablet says {day(new Date().toISOString())}, this machine’s says {day(found.data.today)}. Set the wrong one first, or no
                certificate is taken.
              </p>
            ) : null}
            <p className="max-w-[46rem] text-quiet">To end the trust, remove the certificate in the same place of the settings.</p>
          </section>
        </>
      )}
    </main>
  )
}

const DAY = 86_400_000
const day = (at: string) => new Date(at).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' })
