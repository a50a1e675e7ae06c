import { NavLink } from 'react-router'

const PARTS = [
  ['', 'The plan'],
  ['/lesson', 'The lesson'],
  ['/materials', 'Materials'],
  ['/templates', 'Templates'],
  ['/class', 'The class'],
] as const

/** The sheets of a plan: what is tested, how the lesson goes, what is bought, what is cut from paper, who comes in. */
export function PlanTabs({ id }: { id: string }) {
  return (
    <nav aria-label="Sheets of the plan" className="no-print relative flex gap-1 overflow-x-auto border-b border-hair px-2 md:px-6">
      {PARTS.map(([path, label]) => (
        <NavLink
          key={path}
          end
          to={`/study/${id}/plan${path}`}
          className={({ isActive }) =>
            `flex min-h-[48px] items-center whitespace-nowrap px-2 no-underline ${isActive ? 'font-bold text-ink underline decoration-tape decoration-[5px] underline-offset-8' : 'text-quiet'}`
          }
        >
          {label}
        </NavLink>
      ))}
    </nav>
  )
}
