/** A page that could not be shown. What was kept is not in danger: it is stored, or waits on the device. */
export function Broken() {
  return (
    <main role="alert" className="grid justify-items-start gap-4 p-8">
      <h1 className="m-0 text-[2.4rem]">This page could not be shown</h1>
      <p className="m-0 max-w-[60ch] text-[1.15rem]">
        Trials that were kept are safe: they are stored, or they wait on this device. Load the page again. If there is no network, go back to the page that you
        came from.
      </p>
      <button type="button" className="btn btn-act" onClick={() => location.reload()}>
        Load the page again
      </button>
      <a href="/">Home</a>
    </main>
  )
}
