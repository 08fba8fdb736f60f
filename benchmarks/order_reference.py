"""Orders of generated jobs by a general solver with much time.

tests/outside/test_orders_general_solver.py compares the search of the product with them. It needs
ortools (CP-SAT), which the product does not: install it in a separate environment.

    python benchmarks/order_reference.py SECONDS > tests/outside/orders_general_solver.json
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

import ortools
from jobs import generated
from ortools.sat.python import cp_model

TENTH = 10


def solved(problem: dict, seconds: float) -> tuple[float, float, list[int]]:
    """Return the best order within a time: its cost, the bound of the solver, the order.

    Args:
        problem: The problem, as `tests.jobs.generated` gives it.
        seconds: Time, s.
    """
    model, n = cp_model.CpModel(), len(problem["arc_s"])
    arc = [round(TENTH * a) for a in problem["arc_s"]]
    cool = [round(TENTH * c) for c in problem["cool_s"]]
    horizon = sum(arc) + sum(cool) + n * round(TENTH * sum(problem["change_s"]))
    start = [model.new_int_var(0, horizon, f"s{j}") for j in range(n)]
    lean = [model.new_int_var(-n, n, f"l{j}") for j in range(n)]
    over = [model.new_int_var(0, n, f"o{j}") for j in range(n)]
    end = model.new_int_var(0, horizon, "end")
    arcs = []
    for j in range(n):
        first, last = model.new_bool_var(f"f{j}"), model.new_bool_var(f"e{j}")
        arcs += [(0, j + 1, first), (j + 1, 0, last)]
        model.add(lean[j] == problem["side"][j]).only_enforce_if(first)
        model.add(over[j] >= lean[j] - 1)
        model.add(over[j] >= -lean[j] - 1)
        model.add(end >= start[j] + arc[j])
        for i in range(n):
            if i == j:
                continue
            then = model.new_bool_var(f"a{i},{j}")
            arcs.append((i + 1, j + 1, then))
            change = sum(
                c
                for kind, c in zip(problem["classes"], problem["change_s"], strict=True)
                if kind[i] != kind[j]
            )
            model.add(start[j] >= start[i] + arc[i] + round(TENTH * change)).only_enforce_if(then)
            model.add(lean[j] == lean[i] + problem["side"][j]).only_enforce_if(then)
    model.add_circuit(arcs)
    for i, j in problem["before"]:
        model.add(start[j] >= start[i] + arc[i])
    for i in range(n):
        for j in range(i + 1, n):
            if set(problem["parts"][i]) & set(problem["parts"][j]):
                b = model.new_bool_var(f"b{i},{j}")
                model.add(start[j] >= start[i] + arc[i] + cool[i]).only_enforce_if(b)
                model.add(start[i] >= start[j] + arc[j] + cool[j]).only_enforce_if(b.negated())
    model.minimize(end + round(TENTH * problem["balance_s"]) * sum(over))
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = 2
    status = solver.solve(model)
    assert status in (cp_model.OPTIMAL, cp_model.FEASIBLE)
    order = sorted(range(n), key=lambda j: solver.value(start[j]))
    return solver.objective_value / TENTH, solver.best_objective_bound / TENTH, order


def main() -> None:
    """Print the file."""
    seconds = float(sys.argv[1])
    rows = []
    for seed in range(6):
        cost, bound, order = solved(generated(30, seed), seconds)
        rows.append({"seams": 30, "seed": seed, "cost_s": cost, "bound_s": bound, "order": order})
        print(rows[-1]["cost_s"], rows[-1]["bound_s"], file=sys.stderr, flush=True)
    said = (
        f"OR-Tools CP-SAT {ortools.__version__}, two workers, {seconds:g} s each, started from"
        " nothing"
    )
    json.dump({"solver": said, "orders": rows}, sys.stdout)


if __name__ == "__main__":
    main()
