import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'

import { emergencyStopAll } from '../api/deeds'
import { projectsQuery } from '../api/queries'
import { useEscEsc } from '../frame/escEsc'
import { PersonMenu } from '../frame/PersonMenu'
import { day } from '../ui/format'
import { Icon, Mark } from '../ui/Icon'

const stopAll = () => void emergencyStopAll()

export function Projects() {
  useEscEsc(stopAll)
  const projects = useQuery(projectsQuery)
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-11 flex-none items-center border-b border-rule bg-sheet">
        <span className="grid h-full w-[88px] place-items-center border-r border-rule">
          <Mark />
        </span>
        <h1 className="px-4">Projects</h1>
        <span className="ml-auto h-full">
          <PersonMenu />
        </span>
      </header>
      <main className="flex-1 overflow-auto bg-well p-6">
        {projects.isError && (
          <p role="alert">The projects could not be read. Load the page again.</p>
        )}
        {projects.data?.length === 0 && (
          <p className="max-w-md rounded border border-rule bg-sheet p-5">
            There is no project yet. The demo brings one:{' '}
            <span className="figure">./yoke demo</span>
          </p>
        )}
        <ul className="mx-auto flex max-w-[960px] flex-col gap-4">
          {projects.data?.map((project) => (
            <li key={project.id} className="rounded border border-rule bg-sheet">
              <div className="border-b border-rule px-5 py-4">
                <h2 className="text-[17px] leading-6">{project.name}</h2>
                <p className="text-soft">
                  {project.article} for {project.customer}, after {project.standard}
                </p>
              </div>
              {project.setups.map((setup) => (
                <Link
                  key={setup.id}
                  to={`/setups/${setup.id}/${setup.runs ? 'record' : 'wire'}`}
                  className="grid grid-cols-[1fr_120px_120px_180px_16px] items-center gap-4 border-t border-rule px-5 py-3 first-of-type:border-t-0 hover:bg-paper"
                >
                  <span className="text-[15px] font-[620]">
                    {setup.name}{' '}
                    <span className="font-[400] text-soft">version {setup.version}</span>
                  </span>
                  <Count value={setup.channels} one="channel" many="channels" />
                  <Count value={setup.runs} one="run" many="runs" />
                  <span className="text-soft">
                    {setup.last_run ? (
                      <>
                        last on <span className="figure text-ink">{day(setup.last_run)}</span>
                      </>
                    ) : (
                      'nothing recorded'
                    )}
                  </span>
                  <span className="-rotate-90 text-soft">
                    <Icon name="down" size={12} />
                  </span>
                </Link>
              ))}
            </li>
          ))}
        </ul>
      </main>
    </div>
  )
}

function Count({ value, one, many }: { value: number; one: string; many: string }) {
  return (
    <span>
      <span className="figure font-[520]">{value}</span>{' '}
      <span className="text-soft">{value === 1 ? one : many}</span>
    </span>
  )
}
