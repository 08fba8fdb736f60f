"""The command for simulated devices: an oxygen meter, a power source."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from .reading import parse_figure, read

# The options of each: name, default, minimum, maximum, text.
_METER = (
    ("volume-l", 1, 0.01, 2000, "purge volume"),
    ("flow-l-min", 6, 0.1, 100, "argon"),
    ("mixing", 0.8, 0, 1, "stirred fraction of it, 0 to 1"),
    ("leak-l-min", 0, 0, 100, "air leak"),
    ("floor-ppm", 8, 0, 209_500, "oxygen in the argon"),
    ("lag-s", 5, 0, 120, "lag of the meter"),
    ("noise", 0.02, 0, 1, "noise, as a fraction"),
)
_SOURCE = (
    ("tacks", 0, 0, 100, "tacks before the seam"),
    ("restarts", 1, 0, 20, "number of arc breaks"),
    ("slip", 1, 0, 1, "whether the current leaves its range, 0 or 1"),
    ("touched", 0, 0, 1, "whether the tungsten touches the work, 0 or 1"),
    ("hand", 0.02, 0, 0.5, "variation of the travel, as a fraction"),
    ("arc-s", None, 1, 20_000, "arc time (default: from the plan)"),
)
_OPTIONS_OF_BOTH = (
    ("seed", 1, 0, 1e9, "seed of the noise"),
    ("rate", None, 0.1, 1000, "readings per second (meter 5, source 50)"),
    ("speed", 1, 0.1, 100, "speed factor"),
)
_OWN = {"oxygen-meter": _METER, "power-source": _SOURCE}
_RATES = {"oxygen-meter": 5.0, "power-source": 50.0}
_PORTS = {"oxygen-meter": 8766, "power-source": 8767}


def add_simulate(commands: Any) -> None:
    """Add the command for simulated devices."""
    simulate = commands.add_parser("simulate", aliases=["stand-in"], help="run a simulated device")
    simulate.add_argument("name", metavar="NAME", help="oxygen-meter or power-source")
    simulate.add_argument(
        "--port", help="port on 127.0.0.1 (default 8766, 8767; 0 uses a free one)"
    )
    simulate.add_argument(
        "--replay",
        metavar="FILE.csv",
        type=Path,
        help="oxygen-meter: recorded readings to replay, as time_s,ppm",
    )
    simulate.add_argument(
        "--joint", metavar="FILE", help="power-source: joint file with the plan to follow"
    )
    simulate.add_argument(
        "--shop", metavar="SHOP", help="power-source: shop file; plan with the equipment in it"
    )
    for device, options in (*_OWN.items(), ("", _OPTIONS_OF_BOTH)):
        for name, usual, _, _, text in options:
            message = f"{device}: {text}" if device else text
            simulate.add_argument(
                f"--{name}", help=message + ("" if usual is None else f" (default {usual:g})")
            )
    simulate.set_defaults(run=_simulate)


def _simulate(args: argparse.Namespace) -> int:
    from ..core.errors import InputError
    from ..core.schema import checks

    device = checks.name("device", args.name, list(_OWN))
    figures = _parse_figures(args, device)
    port = int(
        checks.check_number(
            "--port",
            _PORTS[device] if args.port is None else parse_figure("--port", args.port),
            0,
            65_535,
        )
    )
    speed, rate = float(figures.pop("speed") or 1.0), float(figures.pop("rate") or _RATES[device])
    try:
        line = (_build_meter if device == "oxygen-meter" else _build_source)(
            args, figures, port, rate, speed
        )
    except OSError as error:
        raise InputError(
            "--port", str(port), f"cannot be used ({error.strerror}). Give another port"
        ) from error
    text = device.replace("-", " ")
    print(
        (
            f"Simulated {text} on port {line.port} of this machine. It starts at the "
            "first connection. Press Ctrl+C to stop"
        ),
        flush=True,
    )
    try:
        line.serve()
    finally:
        line.close()
    return 0


def _parse_figures(args: argparse.Namespace, device: str) -> dict[str, float | None]:
    """Return the options of a device, checked against their limits.

    Raises:
        InputError: An option is wrong or belongs to another device.
    """
    from ..core.errors import InputError
    from ..core.schema import checks

    others = [name for other, options in _OWN.items() if other != device for name, *_ in options]
    others += ["replay"] if device == "power-source" else ["joint", "shop"]
    for name in others:
        if getattr(args, name.replace("-", "_")) is not None:
            raise InputError(
                f"--{name}",
                str(getattr(args, name.replace("-", "_"))),
                f"is not an option of the {device}",
            )
    figures: dict[str, float | None] = {}
    for name, usual, low, high, _ in (*_OWN[device], *_OPTIONS_OF_BOTH):
        value = parse_figure(f"--{name}", getattr(args, name.replace("-", "_")))
        figures[name.replace("-", "_")] = (
            usual if value is None else checks.check_number(f"--{name}", value, low, high)
        )
    return figures


def _build_meter(
    args: argparse.Namespace, figures: dict[str, Any], port: int, rate: float, speed: float
) -> Any:
    from ..core.errors import InputError
    from ..simulators.oxygen_meter import Behind, Meter, replay_readings, simulate_readings

    behind = Behind(**{**figures, "seed": int(figures["seed"])})
    if args.replay:
        try:
            rows = list(replay_readings(args.replay))
        except (OSError, ValueError) as error:
            raise InputError(
                "--replay",
                args.replay.name,
                f"cannot be replayed: {getattr(error, 'strerror', None) or error}",
            ) from error
    return Meter(
        lambda: iter(rows) if args.replay else simulate_readings(behind, rate), port, speed
    )


def _build_source(
    args: argparse.Namespace, figures: dict[str, Any], port: int, rate: float, speed: float
) -> Any:
    from ..core.shop.shop import ASSUMED
    from ..services.planning.planner import plan_of_text, shop_of_text
    from ..simulators.line import Line
    from ..simulators.power_source import simulate_rows

    shop = shop_of_text(read(args.shop, "shop")) if args.shop else ASSUMED
    plan = plan_of_text(read(args.joint), shop) if args.joint else None
    counts = {name: int(figures[name]) for name in ("tacks", "restarts", "seed")}
    seam = _build_seam(
        plan,
        **counts,
        slip=bool(figures["slip"]),
        touched=bool(figures["touched"]),
        hand=figures["hand"],
        arc_s=figures["arc_s"],
        rate_hz=rate,
    )
    return Line(lambda: simulate_rows(seam), port, speed)


def _build_seam(plan: Any, arc_s: float | None, **more: Any) -> Any:
    """Return the weld for a power source, from a plan or the defaults."""
    from ..simulators.power_source import Seam

    if plan is None:
        return Seam(**more) if arc_s is None else Seam(arc_s=arc_s, **more)
    pulse, slopes = plan.pulse, plan.slopes
    seam = Seam(
        peak_a=pulse.peak_a,
        background_a=0.0,
        arc_s=arc_s or plan.travel.arc_time_s,
        preflow_s=plan.gas.preflow_s,
        postflow_s=plan.gas.postflow_s,
        up_s=slopes.up_s or 0.3,
        down_s=slopes.down_s or 1.5,
        volts=plan.heat.arc_voltage_v,
        **more,
    )
    if not pulse.pulsed:
        return seam
    on = pulse.on_pct / 100
    return replace(seam, background_a=pulse.background_a, rate_pps=pulse.rate_pps, on=on)
