import { useQuery } from '@tanstack/react-query'
import { lazy, Suspense } from 'react'
import { Navigate, Route, Routes } from 'react-router'

import { FirstPerson } from './accounts/FirstPerson'
import { SignIn } from './accounts/SignIn'
import { ProblemError } from './api/client'
import { preferencesQuery } from './api/preferences'
import { sessionQuery, unitsQuery, welcomeQuery } from './api/queries'
import { Projects } from './projects/Projects'
import { Notices } from './ui/Notices'
import { QuestionDialog } from './ui/QuestionDialog'

/** Each stage's script is loaded when the stage is first opened. */
const Wire = lazy(() => import('./stages/wire/Wire').then((m) => ({ default: m.Wire })))
const Calibrate = lazy(() =>
  import('./stages/calibrate/Calibrate').then((m) => ({ default: m.Calibrate })),
)
const Record = lazy(() => import('./stages/record/Record').then((m) => ({ default: m.Record })))
const Derive = lazy(() => import('./stages/derive/Derive').then((m) => ({ default: m.Derive })))
const Report = lazy(() => import('./stages/report/Report').then((m) => ({ default: m.Report })))
const ImportFile = lazy(() =>
  import('./stages/importing/ImportFile').then((m) => ({ default: m.ImportFile })),
)
const Curves = lazy(() =>
  import('./stages/derive/curves/Curves').then((m) => ({ default: m.Curves })),
)
const SignalCheck = lazy(() =>
  import('./stages/record/signals/SignalCheck').then((m) => ({ default: m.SignalCheck })),
)
const Far = lazy(() => import('./far/Far').then((m) => ({ default: m.Far })))
const People = lazy(() => import('./accounts/People').then((m) => ({ default: m.People })))
const SetupFrame = lazy(() => import('./frame/SetupFrame').then((m) => ({ default: m.SetupFrame })))

export function App() {
  const session = useQuery(sessionQuery)
  const welcome = useQuery({ ...welcomeQuery, enabled: !session.isPending && !session.data })
  const units = useQuery({ ...unitsQuery, enabled: !!session.data })
  const preferences = useQuery({ ...preferencesQuery, enabled: !!session.data })
  if (session.isPending || (session.data && (units.isPending || preferences.isPending))) return null
  if (session.isError && ProblemError.of(session.error).status !== 401)
    return (
      <p role="alert" className="p-8">
        The server does not answer. Check that it runs, then load this page again.
      </p>
    )
  if (!session.data) return welcome.data?.empty ? <FirstPerson /> : <SignIn />
  return (
    <>
      <Suspense>
        <Routes>
          <Route path="/" element={<Projects />} />
          <Route path="/people" element={<People />} />
          <Route path="/setups/:setupId" element={<SetupFrame />}>
            <Route path="wire" element={<Wire />} />
            <Route path="calibrate" element={<Calibrate />} />
            <Route path="record" element={<Record />} />
            <Route path="derive" element={<Derive />} />
            <Route path="report" element={<Report />} />
            <Route path="record/signals" element={<SignalCheck />} />
            <Route path="derive/curves" element={<Curves />} />
            <Route path="far" element={<Far />} />
            <Route path="derive/import" element={<ImportFile />} />
          </Route>
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
      </Suspense>
      <Notices />
      <QuestionDialog />
    </>
  )
}
