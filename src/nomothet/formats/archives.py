"""What goes wrong while a ZIP archive of somebody else is opened and read."""

import zipfile
import zlib

# zipfile says of damaged, encrypted, unusual or cut archives whatever it stumbles over.
BROKEN = (zipfile.BadZipFile, zlib.error, EOFError, OSError, NotImplementedError, RuntimeError, ValueError)
