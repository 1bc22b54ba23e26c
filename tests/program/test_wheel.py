"""The wheel holds what the application needs."""

import shutil
import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path

from django.test import SimpleTestCase

ROOT = Path(__file__).parents[2]


class WheelTests(SimpleTestCase):
    def test_templates_static_files_and_migrations_are_in_it(self):
        with tempfile.TemporaryDirectory() as folder:
            # Built from a copy, so that no build folder is left behind or picked up.
            source = Path(folder, "source")
            shutil.copytree(ROOT / "zester", source / "zester")
            for name in ("pyproject.toml", "README.md"):
                shutil.copy(ROOT / name, source)
            command = [sys.executable, "-m", "build", "--wheel", "--no-isolation", "--outdir", folder, str(source)]
            subprocess.run(command, check=True, capture_output=True, timeout=240)
            (wheel,) = Path(folder).glob("zester-*.whl")
            names = set(zipfile.ZipFile(wheel).namelist())
        for part in ("zester", "zester/site", "zester/shelf", "zester/designs", "zester/classes", "zester/fits"):
            self.assertTrue(any(name.startswith(f"{part}/") for name in names), part)
        templates = {str(path.relative_to(ROOT)) for path in ROOT.glob("zester/*/templates/**/*.html")}
        static = {str(path.relative_to(ROOT)) for path in ROOT.glob("zester/*/static/**/*") if path.is_file()}
        self.assertGreater(len(templates), 15)
        self.assertGreater(len(static), 6)
        self.assertEqual((templates | static) - names, set())
        self.assertIn("zester/fits/migrations/0001_initial.py", names)
