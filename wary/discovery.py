"""What is found by its file's name and imported when it is asked for: methods and kinds of machine.

A file that holds a `METHOD` or a `MACHINE` is one; nothing registers it. Whoever wants one by its key imports that one
alone; whoever goes through all of them imports all.
"""

import importlib
import importlib.util
import pkgutil
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from types import ModuleType
from typing import Generic, TypeVar

Found = TypeVar("Found")
KEY = re.compile(r"[a-z0-9]+(-[a-z0-9]+)*")


class Discovered(Mapping[str, Found], Generic[Found]):
    """What files of some packages hold, by its key, in the order of the keys.

    `held` says what a module holds, or None; it is called once for each module, and may raise what is wrong with it.
    `inner` is the name of the file within a folder that is named as a key.
    """

    def __init__(
        self, packages: Sequence[str], held: Callable[[ModuleType], tuple[str, Found] | None], inner: str = ""
    ) -> None:
        self.packages, self.held, self.inner = tuple(packages), held, inner
        self.some: dict[str, Found] = {}
        self.whole: dict[str, Found] | None = None

    def __getitem__(self, key: str) -> Found:
        found = self.some.get(key)
        if found is None and isinstance(key, str) and self.whole is None and KEY.fullmatch(key):
            found = self._looked_for(key)
        if found is None:
            return self._all()[key]
        return found

    def __iter__(self) -> Iterator[str]:
        return iter(self._all())

    def __len__(self) -> int:
        return len(self._all())

    def _looked_for(self, key: str) -> Found | None:
        name = key.replace("-", "_")
        for package in self.packages:
            here = importlib.import_module(package)
            families = [one.name for one in pkgutil.iter_modules(here.__path__) if one.ispkg]
            for family in (package, *(f"{package}.{one}" for one in families)):
                for module in (f"{family}.{name}", f"{family}.{name}.{self.inner}"):
                    if module.rpartition(".")[2] and _is_there(module):
                        self._take(module)
                        if key in self.some:
                            return self.some[key]
        return None

    def _all(self) -> dict[str, Found]:
        if self.whole is None:
            for package in map(importlib.import_module, self.packages):
                for module in pkgutil.walk_packages(package.__path__, f"{package.__name__}."):
                    self._take(module.name)
            self.whole = self.some = dict(sorted(self.some.items()))
        return self.whole

    def _take(self, module: str) -> None:
        held = self.held(importlib.import_module(module))
        if held is not None:
            self.some.setdefault(*held)


def _is_there(module: str) -> bool:
    try:
        return importlib.util.find_spec(module) is not None
    except ModuleNotFoundError:
        return False
