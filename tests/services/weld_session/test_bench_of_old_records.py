"""Records of every older version have bench pages too, from their saved data alone."""

from tests.frozen import read_procedure_files, versions
from tests.samples import SHOP
from tests.untraced import Untraced
from wisearc.core.plan.preparation.bar_runs import build_bench_list
from wisearc.core.shop.data import make_shop
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.procedure_json import read_procedure_file
from wisearc.presenters.fit_up import fit_up_view
from wisearc.presenters.purge import purge_view
from wisearc.services.purge.purge_forecast import purge_file
from wisearc.services.set_up.tacking import list_bar_runs
from wisearc.services.templates.templates import cut_link

WITHIN = make_shop({k: v for k, v in SHOP.items() if k not in ("format", "version")})


class Old(Untraced):
    def test_every_record(self) -> None:
        seen = 0
        records = [
            (v.name, name, data)
            for v in versions()
            for name, data in read_procedure_files(v).items()
        ]
        for version, name, data in records:
            _, plan = read_procedure_file(data)
            with self.subTest(record=f"{version}/{name}"):
                for habit in ("mm", "in"):
                    self.assertFalse(purge_view(plan, {}, habit).wrong)
                    self.assertTrue(fit_up_view(plan, "0.1 mm", ASSUMED, habit).parts)
                for shop in (ASSUMED, WITHIN):
                    found = build_bench_list(plan, list_bar_runs(plan, shop))
                    self.assertEqual(found[-1].kind, "weld")
                self.assertEqual(purge_file(plan) is None, plan.back.purge is None)
                self.assertEqual(
                    bool(cut_link(plan)),
                    plan.section.all_round
                    and (plan.section.coped or plan.section.sides[1].diameter_mm is None),
                )
            seen += 1
        self.assertGreater(seen, 18)
