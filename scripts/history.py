"""`make weeks`: the demo's twelve weeks lived anew, about seven minutes, and written down as the file that ships."""

from __future__ import annotations

import sys
import time
from pathlib import Path

from jutrel.catalog import catalog
from jutrel.cluster import Cluster
from jutrel.demo.history_file import FILE, file_bytes
from jutrel.demo.make_history import keep_history, make_history
from jutrel.service.site.upgrade import bring_up

ROOT = Path(__file__).resolve().parents[1]


def main(last: int, path: Path) -> None:
    cluster = Cluster(ROOT / ".jutrel" / "weeks", durable=False)
    cluster.drop()
    cluster.make()
    cluster.start()
    try:
        bring_up(cluster.url, catalog())
        begun = time.perf_counter()
        make_history(cluster.serve_url, catalog(), last=last)
        keep_history(cluster.serve_url, path)
        took = time.perf_counter() - begun
        print(f"{path.name}: {len(file_bytes(path)) / 1e6:.1f} MB, {took:.0f} s")
    finally:
        cluster.stop()
        cluster.drop()


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 1, Path(sys.argv[2]) if len(sys.argv) > 2 else FILE)
