import type { Bench, Channel, Derivation, Schemas, Setup } from '../api/client'

/** Made-up rows of the API for tests; what a test cares about is given over them. */

export const UNITS: Schemas['UnitOut'][] = [
  { quantity: 'force', name: 'kN', factor: 1e3, offset: 0 },
  { quantity: 'force', name: 'N', factor: 1, offset: 0 },
  { quantity: 'extension', name: 'mm', factor: 1e-3, offset: 0 },
  { quantity: 'strain', name: 'µm/m', factor: 1e-6, offset: 0 },
  { quantity: 'temperature', name: '°C', factor: 1, offset: 273.15 },
  { quantity: 'stress', name: 'MPa', factor: 1e6, offset: 0 },
  { quantity: 'stress', name: 'GPa', factor: 1e9, offset: 0 },
  { quantity: 'bridge ratio', name: 'mV/V', factor: 1e-3, offset: 0 },
]

type Bridge = Extract<Channel['wiring'], { kind: 'bridge' }>
export const bridge = (over: Partial<Bridge> = {}): Bridge => ({
  kind: 'bridge',
  circuit: 'quarter',
  wires: 3,
  resistance_ohm: 350,
  lead_length_m: 6,
  lead_ohm_per_m: 0.128,
  ...over,
})

export function channel(over: Partial<Channel> = {}): Channel {
  return {
    id: 1,
    key: 'force',
    device_id: 1,
    device_label: 'A1',
    input_id: 1,
    input_number: 1,
    input_label: '1.1',
    name: 'F',
    grid: null,
    sensor: {
      id: 1,
      kind: 'load cell',
      name: 'Load cell 25 kN',
      serial: 'LC-2207',
      quantity: 'force',
      signal: 'bridge ratio',
      spec: {
        kind: 'transducer',
        circuit: 'full_axial',
        wires: 6,
        resistance_ohm: 350,
        rated_output: 2e-3,
        capacity: 25e3,
      },
      calibrated_on: '2026-03-14',
      due_on: '2999-01-01',
      calibration_status: { status: 'in force', words: '2999-01-01', elapsed: 0 },
      cores: [
        { colour: 'brown', pin: 1, function: 'excitation +' },
        { colour: 'white', pin: 3, function: 'signal +' },
      ],
    },
    signal: 'bridge ratio',
    quantity: 'force',
    active_arms: [1, 2, 3, 4],
    wiring: bridge({ circuit: 'full_axial', wires: 6 }),
    conditioning: { kind: 'bridge', excitation_v: 5, range_mv_v: 8, carrier_hz: 0 },
    scaling: { kind: 'rated_output', rated_output: 2e-3, capacity: 25e3 },
    polarity: 'as wired',
    heating: null,
    recorded: true,
    sign: {
      counts: 'Tension',
      positive: 'Pulled',
      negative: 'Pressed',
      swap: '',
      clear: 8,
      smallest: 3,
      test: null,
    },
    per_signal: 12.5e6,
    ends: [-2e-3, 2e-3],
    scaling_problem: '',
    takes_zero: true,
    zero: 0,
    zeroed_at: '2026-11-23T10:00:00Z',
    tare: null,
    tared_at: null,
    shunt_expected_mv_v: 0.8735,
    shunt_measured_mv_v: 0.8735,
    shunt_at: null,
    unit: 'kN',
    decimals: 3,
    completion_ohm: null,
    check: null,
    ...over,
  }
}

export const quarter = (over: Partial<Channel> = {}): Channel =>
  channel({
    id: 3,
    key: 'gauge',
    input_id: 3,
    input_number: 3,
    input_label: '1.3',
    name: 'SG1',
    quantity: 'strain',
    wiring: bridge(),
    active_arms: [1],
    completion_ohm: 350,
    scaling: { kind: 'gauge', gauge_factor: 2.08, poisson_ratio: 0.3 },
    unit: 'µm/m',
    decimals: 1,
    ...over,
  })

export function setup(over: Partial<Setup> = {}): Setup {
  return {
    id: 1,
    name: 'Tension',
    version: 3,
    project_id: 1,
    project_name: 'Tube coupons',
    bench_id: 1,
    rates: [{ device_id: 1, device_label: 'A1', rate_hz: 1000 }],
    run_name_pattern: '{specimen} run {number}',
    next_run_name: 'C1 run 1',
    next_specimen: '',
    specimen: 'C1',
    piece: { kind: 'flat', width_m: 0.0125, thickness_m: 0.003, gauge_length_m: 0.05 },
    motion: { kind: 'ramp', speed_m_s: 1.85e-4, travel_limit_m: 0.012 },
    stops: [{ kind: 'force_drop', share: 0.4, arm_n: 500 }],
    channels: [channel(), quarter()],
    rosettes: [],
    free_names: { strain: 'SG2', force: 'F2' },
    preflight: [],
    undo: '',
    redo: '',
    runs: 0,
    results: 0,
    reports: 0,
    ...over,
  }
}

export const amplifier: Bench['devices'][number] = {
  id: 1,
  label: 'A1',
  driver: 'bridge amplifier',
  capabilities: ['acquires', 'conditions'],
  controlled_by: 'this recorder',
  drift_ppm: 12,
  clock_steps: 0,
  inputs: [{ id: 1, number: 1, label: '1.1', signal: 'bridge ratio' }],
  link: 'linked',
  link_note: '',
  host: '127.0.0.1',
  port: 5025,
  twin: '',
  identity: 'BA8',
  serial: '20417',
  firmware: '3.2',
  self_test: 'passed',
  temperature_c: 34,
}

const result = (symbol: string, value: number | null, unit: string): Schemas['ResultOut'] => ({
  symbol,
  name: symbol,
  value,
  unit,
  decimals: 1,
  method: 'by hand',
  clause: '',
  note: '',
})

export const tension = (run: number, modulus: number, proof: number | null): Derivation => ({
  run,
  stale: false,
  problem: null,
  digest: '',
  notes: [],
  computed_at: '2026-11-23T10:00:00Z',
  recipe: {
    id: 7,
    setup: 1,
    version: 1,
    parameters: { kind: 'tension', fit_lower_pa: 60e6, fit_upper_pa: 180e6, offset: 0.002 },
  },
  results: [result('E', modulus, 'GPa'), result('Rp0.2', proof, 'MPa')],
  details: null,
})
