import { useQuery } from '@tanstack/react-query'
import { Navigate, Route, Routes } from 'react-router'

import { SignIn } from './accounts/SignIn'
import { ProblemError } from './api/client'
import { sessionQuery, unitsQuery } from './api/queries'
import { SetupFrame } from './frame/SetupFrame'
import { Projects } from './projects/Projects'
import { Calibrate } from './stages/calibrate/Calibrate'
import { Derive } from './stages/derive/Derive'
import { Record } from './stages/record/Record'
import { Report } from './stages/report/Report'
import { Wire } from './stages/wire/Wire'
import { Notices } from './ui/Notices'

export function App() {
  const session = useQuery(sessionQuery)
  const units = useQuery({ ...unitsQuery, enabled: !!session.data })
  if (session.isPending || (session.data && units.isPending)) return null
  if (session.isError && ProblemError.of(session.error).status !== 401)
    return (
      <p role="alert" className="p-8">
        The server does not answer. Check that it runs, then load this page again.
      </p>
    )
  if (!session.data) return <SignIn />
  return (
    <>
      <Routes>
        <Route path="/" element={<Projects />} />
        <Route path="/setups/:setupId" element={<SetupFrame />}>
          <Route path="wire" element={<Wire />} />
          <Route path="calibrate" element={<Calibrate />} />
          <Route path="record" element={<Record />} />
          <Route path="derive" element={<Derive />} />
          <Route path="report" element={<Report />} />
        </Route>
        <Route path="*" element={<Navigate to="/" replace />} />
      </Routes>
      <Notices />
    </>
  )
}
