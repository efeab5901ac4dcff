"""The solver behind assembly (HiGHS): a program in, which columns are chosen out."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import highspy
import numpy as np

from bildung.core.assembly.program import Program
from bildung.core.data.arrays import FloatArray

Tell = Callable[[float, float], None]  # the best deviation so far and its bound
NEAR = 0.05  # points: two forms whose predicted means are that near are called equal


@dataclass(frozen=True)
class Solution:
    """What the solver found.

    Attributes
    ----------
    values : FloatArray | None
        By column; None where there is none.
    objective : float
        Its value.
    bound : float
        What the objective cannot be below.
    sure : bool
        Whether "none" is proved (otherwise the time was over).
    """

    values: FloatArray | None
    objective: float
    bound: float
    sure: bool


class Quiet(highspy.Highs):
    """HiGHS greets on the console as soon as its callbacks are set up, before anybody could silence it."""

    def enableCallbacks(self) -> None:
        """As HiGHS does, in silence."""
        self.silent()
        super().enableCallbacks()  # type: ignore[no-untyped-call]


def solve(
    program: Program,
    seconds: float,
    tell: Tell | None = None,
    without: Iterable[int] = (),
    relaxed: bool = False,
    any_will_do: bool = False,
) -> Solution:
    """Solve a program.

    Parameters
    ----------
    program : Program
        The program whose demands collide.
    seconds : float
        Time that may be taken.
    tell : Tell | None
        Told how far it is.
    without : Iterable[int]
        Demands that are left out.
    relaxed : bool
        Items may stand on a form in parts, which answers quicker and proves what is impossible.
    any_will_do : bool
        The first that meets all demands.

    Returns
    -------
    Solution
    """
    left_out = set(without)
    keep = np.array([owner not in left_out for owner in program.owner], dtype=bool)
    matrix = program.matrix().tocsr()[keep].tocsc()
    model = highspy.HighsLp()
    n = len(program.cost)
    model.num_col_, model.num_row_ = n, matrix.shape[0]
    model.col_cost_ = np.zeros(n) if any_will_do else program.cost
    model.col_lower_, model.col_upper_ = (
        np.zeros(n),
        np.where(np.isinf(program.upper), highspy.kHighsInf, program.upper),
    )
    low, high = np.array(program.low)[keep], np.array(program.high)[keep]
    model.row_lower_ = np.where(np.isinf(low), -highspy.kHighsInf, low)
    model.row_upper_ = np.where(np.isinf(high), highspy.kHighsInf, high)
    model.a_matrix_.format_ = highspy.MatrixFormat.kColwise
    model.a_matrix_.start_, model.a_matrix_.index_, model.a_matrix_.value_ = matrix.indptr, matrix.indices, matrix.data
    if not relaxed:
        kinds = [highspy.HighsVarType.kInteger] * program.integers
        model.integrality_ = kinds + [highspy.HighsVarType.kContinuous] * (n - program.integers)
    solver = Quiet()  # type: ignore[no-untyped-call]
    solver.setOptionValue("time_limit", float(seconds))
    solver.setOptionValue("mip_abs_gap", NEAR)
    solver.setOptionValue("mip_rel_gap", 0.0)
    solver.setOptionValue("random_seed", 1)
    solver.setOptionValue("threads", 1)
    solver.passModel(model)
    if tell is not None and not relaxed:
        say = tell

        def heard(event: highspy.HighsCallbackEvent) -> None:
            say(event.data_out.mip_primal_bound, event.data_out.mip_dual_bound)

        solver.cbMipLogging += heard
        solver.cbMipImprovingSolution += heard
    solver.run()
    status, info = solver.getModelStatus(), solver.getInfo()
    if status == highspy.HighsModelStatus.kInfeasible:
        return Solution(None, np.inf, np.inf, True)
    found = info.primal_solution_status == highspy.SolutionStatus.kSolutionStatusFeasible
    if not found:
        return Solution(None, np.inf, max(0.0, info.mip_dual_bound), False)
    values = np.array(solver.getSolution().col_value)
    bound = info.objective_function_value if relaxed else info.mip_dual_bound
    return Solution(values, float(info.objective_function_value), max(0.0, float(bound)), True)
