"""Bodies of requests that change a spec, for tests."""


def gauge(factor, **more):
    return {"scaling": {"kind": "gauge", "gauge_factor": factor, **more}}


def rated(output=2e-3, capacity=25e3):
    return {"scaling": {"kind": "rated_output", "rated_output": output, "capacity": capacity}}


def two_points(signal_1, value_1, signal_2, value_2):
    spec = {"signal_1": signal_1, "value_1": value_1, "signal_2": signal_2, "value_2": value_2}
    return {"scaling": {"kind": "two_points", **spec}}


def conditioning(excitation_v=5.0, range_mv_v=8.0):
    return {
        "conditioning": {
            "kind": "bridge",
            "excitation_v": excitation_v,
            "range_mv_v": range_mv_v,
        }
    }


def quarter(**changes):
    spec = {"circuit": "quarter", "wires": 3, "resistance_ohm": 350.0, "lead_length_m": 6.0}
    return {"wiring": {"kind": "bridge", "lead_ohm_per_m": 0.128, **spec, **changes}}
