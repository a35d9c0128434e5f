"""`image.py LAYER.tar OUT.tar`: a root file system as an image that docker and podman load.

The form is that of `docker save`: a manifest, a configuration named by its hash (OCI image specification 1.0), a layer.
"""

from __future__ import annotations

import hashlib
import io
import json
import platform
import sys
import tarfile
from pathlib import Path

import jutrel

MACHINES = {"x86_64": "amd64", "aarch64": "arm64"}


def pack(layer: Path, out: Path) -> None:
    """Write the image."""
    with layer.open("rb") as file:
        diff = hashlib.file_digest(file, "sha256").hexdigest()
    config = {
        "architecture": MACHINES.get(platform.machine(), platform.machine()),
        "os": "linux",
        "config": {
            "User": "jutrel_serve",
            "Entrypoint": ["/opt/jutrel/bin/jutrel"],
            "Cmd": ["serve", "--host", "0.0.0.0", "--port", "8000"],
            "Env": ["PATH=/opt/jutrel/bin:/usr/bin:/bin", "LANG=C.UTF-8", "HOME=/tmp"],
            "ExposedPorts": {"8000/tcp": {}},
            "WorkingDir": "/tmp",
        },
        "rootfs": {"type": "layers", "diff_ids": [f"sha256:{diff}"]},
        "history": [{"created_by": "deploy/container.sh"}],
    }
    told = json.dumps(config).encode()
    name = f"{hashlib.sha256(told).hexdigest()}.json"
    tags = [f"jutrel:{jutrel.__version__}", "jutrel:latest"]
    manifest = json.dumps([{"Config": name, "RepoTags": tags, "Layers": ["layer.tar"]}]).encode()
    with tarfile.open(out, "w") as image:
        for path, data in ((name, told), ("manifest.json", manifest)):
            head = tarfile.TarInfo(path)
            head.size = len(data)
            image.addfile(head, io.BytesIO(data))
        image.add(layer, "layer.tar")


if __name__ == "__main__":
    pack(Path(sys.argv[1]), Path(sys.argv[2]))
