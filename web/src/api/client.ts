import createClient, { type Middleware } from 'openapi-fetch'

import type { components, paths } from './schema'
import type { Shown } from '../ui/display'

export type Schemas = components['schemas']
export type Setup = Schemas['SetupOut']
/** `shared` is how everybody sees it, where oneself sees it in another unit. */
export type Channel = Schemas['ChannelOut'] & { shared?: Shown }
export type Bench = Schemas['BenchOut']
export type Run = Schemas['RunOut']
export type Sensor = Schemas['SensorOut']
export type Person = Schemas['Person']
export type Report = Schemas['ReportOut']
export type Derivation = Schemas['DerivationOut']

type ProblemDocument = Omit<Schemas['Problem'], 'type'>

/** An RFC 9457 problem from the API, or a failure to reach it. */
export class ProblemError extends Error implements ProblemDocument {
  readonly title: string
  readonly status: number
  readonly detail?: string
  readonly field?: string
  readonly hint?: string

  constructor(document: ProblemDocument) {
    super(document.title)
    this.title = document.title
    this.status = document.status
    this.detail = document.detail
    this.field = document.field
    this.hint = document.hint
  }

  static of(error: unknown): ProblemError {
    if (error instanceof ProblemError) return error
    return new ProblemError({
      title: 'The server does not answer.',
      status: 0,
      hint: 'Check the connection; your last change is not saved.',
    })
  }
}

const csrfToken = (): string => /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? ''

const csrf: Middleware = {
  onRequest({ request }) {
    request.headers.set('X-CSRFToken', csrfToken())
    return request
  },
}

let underWay = 0
/** Actions that were sent and are not answered yet. */
export const actionsPending = (): number => underWay

const LOOK = 20 // ms between looks, and for an answer to be shown
const PATIENCE = 1000 // ms

/** Once one's own actions are answered and shown, or have taken long. */
export async function actionsShown(): Promise<void> {
  const until = performance.now() + PATIENCE
  const pause = () => new Promise((done) => setTimeout(done, LOOK))
  while (underWay && performance.now() < until) await pause()
  await pause()
}

const count = (request: Request, by: number) => {
  if (request.method !== 'GET') underWay += by
}
const counted: Middleware = {
  onRequest: ({ request }) => count(request, 1),
  onResponse: ({ request }) => count(request, -1),
  onError: ({ request }) => count(request, -1),
}

export const client = createClient<paths>({ baseUrl: '/', credentials: 'same-origin' })
client.use(csrf, counted)

/** The data of an answer; throws `ProblemError` otherwise. */
export async function got<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await answer
  if (response.ok) return data as T
  if (error && typeof error === 'object' && 'title' in error)
    throw new ProblemError(error as ProblemDocument)
  throw new ProblemError({
    title: 'The server could not do this.',
    status: response.status,
    hint: 'Try again; if it stays so, look into its log.',
  })
}
