import type { Channel } from '../../../api/client'
import { figure } from '../../../ui/format'
import { Icon } from '../../../ui/Icon'
import type { Ground } from './grounds'

const TOO_WARM = 'No excitation here is low enough: take a gauge of more resistance.'

/** Whether a grid gets too warm, and what to excite it with instead. */
export function Heating(props: {
  heating: NonNullable<Channel['heating']>
  ground: Ground | null | undefined
}) {
  const { density_w_m2, carries_w_m2, passed, best_v } = props.heating
  const kilo = (w: number) => figure(w / 1000, w < 100 ? 3 : w < 1000 ? 2 : 1)
  const warm = passed === false
  return (
    <div
      className={`flex gap-2 py-1 text-small leading-4 ${warm ? 'text-marking-ink' : 'text-soft'}`}
    >
      {passed != null && <Icon name={warm ? 'warn' : 'tick'} size={14} />}
      <p>
        Self-heating <span className="figure">{kilo(density_w_m2)}</span> kW/m² on this grid
        {carries_w_m2 != null && (
          <>
            ; {props.ground} carries <span className="figure">{kilo(carries_w_m2)}</span>
          </>
        )}
        .{warm && ` ${best_v ? `Excite it with ${best_v} V.` : TOO_WARM}`}
        {carries_w_m2 == null && ' Say what it is bonded to.'}
      </p>
    </div>
  )
}
