"""A private MariaDB on loopback, with its data inside the project."""

import os
import pwd
import shutil
import subprocess
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from nomothet.server.launch.children import Child
from nomothet.server.launch.errors import LaunchError

# One that ends is noticed at once; one that mends itself after the machine has failed takes its time.
_READY_S = 300.0
# What migrations and the application do; nothing of other databases, accounts or files.
_NEEDED = "SELECT, INSERT, UPDATE, DELETE, CREATE, ALTER, DROP, INDEX, REFERENCES, LOCK TABLES"
# sockaddr_un holds 108 bytes with the closing zero.
_LONGEST_SOCKET = 107


class PrivateDatabase:
    """MariaDB from Debian's package, started as a child of this process.

    Parameters
    ----------
    folder : path
        Holds data, socket and log; made when missing.
    port : int
        TCP port on 127.0.0.1.
    password : str
        Of the account `nomothet`, which has the database `nomothet` and nothing else.
    for_tests : bool
        Whether the account may make databases called `test_nomothet…` too.
    """

    def __init__(self, folder: Path, port: int, password: str, *, for_tests: bool = False) -> None:
        self.folder = folder
        self.port = port
        self._password = password
        self._for_tests = for_tests
        self._data = folder / "data"
        self.log = folder / "error.log"
        # A database clears its temporary folder when it starts, so two must never share one.
        self._temporary = folder / "tmp"
        self._short: str | None = None
        self._socket = self._socket_path()
        self.child: Child | None = None

    def start(self, meanwhile: Callable[[], None] = lambda: None) -> None:
        """Install the data folder at the first time, start the server and wait until it answers.

        Parameters
        ----------
        meanwhile : callable
            What there is to do while it starts.

        Raises
        ------
        LaunchError
            With the end of the server's log.
        """
        self._temporary.mkdir(parents=True, exist_ok=True)
        if self._short is not None:
            Path(self._short).mkdir(mode=0o700, exist_ok=True)
        account = self._account()
        # The socket lies in here, and so does all data: nobody else on the machine has to do with it.
        self.folder.chmod(0o700)
        if not (self._data / "mysql").exists():
            self._install(account)
        self._give_away(account)
        self.child = Child.start(
            "database", self._server_command(account), user=account if account == "mysql" else None
        )
        meanwhile()
        try:
            self._wait_until_ready()
            self._ensure_account()
        except LaunchError:
            # Left running, it would keep its data from the next attempt.
            self.stop()
            raise

    def started(self, meanwhile: Callable[[], None]) -> Child:
        """Start it, and give its process.

        Raises
        ------
        LaunchError
        """
        self.start(meanwhile)
        assert self.child is not None
        return self.child

    def client(self, name: str) -> list[str]:
        """A command that runs statements as who owns the database, on its socket."""
        return [
            "mariadb", "--no-defaults", "--max-allowed-packet=1G", "--default-character-set=utf8mb4", "--binary-mode",
            "-S", str(self._socket), f"-u{_own_name()}", name,
        ]  # fmt: skip

    def stop(self) -> None:
        if self.child is not None:
            self.child.stop(timeout_s=30)
        if self._short is not None:
            shutil.rmtree(self._short, ignore_errors=True)

    def _socket_path(self) -> Path:
        path = self.folder / "s.sock"
        if len(str(path)) <= _LONGEST_SOCKET:
            return path
        self._short = tempfile.mkdtemp(prefix="nomothet-")
        return Path(self._short) / "s.sock"

    def _account(self) -> str | None:
        """The account to run as: root hands over to `mysql` where that account can reach the folder."""
        if os.geteuid() != 0:
            return None
        try:
            pwd.getpwnam("mysql")
        except KeyError:
            return "root"
        reach = subprocess.run(["runuser", "-u", "mysql", "--", "test", "-x", str(self.folder.parent)], check=False)
        return "mysql" if reach.returncode == 0 else "root"

    def _give_away(self, account: str | None) -> None:
        if account != "mysql":
            return
        reached = [self.folder, self._temporary, self.log, *([Path(self._short)] if self._short else [])]
        for path in reached:
            if path.exists():
                shutil.chown(path, "mysql", "mysql")
        if self._data.exists() and self._data.owner() != "mysql":
            for path in [self._data, *self._data.rglob("*")]:
                shutil.chown(path, "mysql", "mysql")

    def _install(self, account: str | None) -> None:
        command = [
            "mariadb-install-db",
            "--no-defaults",
            f"--datadir={self._data}",
            "--auth-root-authentication-method=socket",
            f"--auth-root-socket-user={_own_name()}",
            "--skip-test-db",
            *([f"--user={account}"] if account else []),
        ]
        self._give_away(account)
        environment = {**os.environ, "TMPDIR": str(self._temporary)}
        done = subprocess.run(command, capture_output=True, text=True, check=False, env=environment)
        if done.returncode != 0:
            shutil.rmtree(self._data, ignore_errors=True)
            raise LaunchError(f"The database could not be set up:\n{(done.stdout + done.stderr)[-2000:]}")

    def _server_command(self, account: str | None) -> list[str]:
        return [
            shutil.which("mariadbd") or "/usr/sbin/mariadbd",
            "--no-defaults",
            f"--datadir={self._data}",
            f"--tmpdir={self._temporary}",
            "--bind-address=127.0.0.1",
            f"--port={self.port}",
            f"--socket={self._socket}",
            f"--pid-file={self.folder / 'pid'}",
            f"--log-error={self.log}",
            "--character-set-server=utf8mb4",
            "--collation-server=utf8mb4_unicode_ci",
            "--transaction-isolation=READ-COMMITTED",
            "--max-allowed-packet=1G",
            # Memory is taken as it is used; the tables of a large team fit.
            "--innodb-buffer-pool-size=512M",
            "--skip-name-resolve",
            *(["--user=root"] if account == "root" else []),
        ]

    def _wait_until_ready(self) -> None:
        assert self.child is not None
        deadline = time.monotonic() + _READY_S
        ping = ["mariadb-admin", "--no-defaults", "-S", str(self._socket), f"-u{_own_name()}", "ping"]
        while subprocess.run(ping, capture_output=True, check=False).returncode != 0:
            if not self.child.running or time.monotonic() > deadline:
                raise LaunchError(f"The database did not start. The end of its log:\n{self._log_end()}")
            time.sleep(0.05)

    def _log_end(self) -> str:
        try:
            return "\n".join(self.log.read_text(errors="replace").splitlines()[-12:])
        except OSError:
            return "(no log was written)"

    def _ensure_account(self) -> None:
        """Accounts and the database; repeated at each start, so that a new secrets file is honoured and installations
        of earlier versions, whose root had no password, are mended."""
        own, grants = _own_name(), [f"GRANT {_NEEDED} ON nomothet.* TO 'nomothet'@'127.0.0.1';"]
        if self._for_tests:
            grants.append("GRANT ALL ON `test\\_nomothet%`.* TO 'nomothet'@'127.0.0.1';")
        self._say(
            [
                # Who runs the database is known by the account of the operating system, on the socket alone.
                f"CREATE USER IF NOT EXISTS '{own}'@'localhost' IDENTIFIED VIA unix_socket;",
                f"ALTER USER '{own}'@'localhost' IDENTIFIED VIA unix_socket;",
                f"GRANT ALL ON *.* TO '{own}'@'localhost' WITH GRANT OPTION;",
                "CREATE USER IF NOT EXISTS 'root'@'localhost' IDENTIFIED VIA unix_socket;",
                "ALTER USER 'root'@'localhost' IDENTIFIED VIA unix_socket;",
                "CREATE DATABASE IF NOT EXISTS nomothet CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci;",
                "CREATE USER IF NOT EXISTS 'nomothet'@'127.0.0.1';",
                f"ALTER USER 'nomothet'@'127.0.0.1' IDENTIFIED BY '{self._password}';",
                "REVOKE ALL PRIVILEGES, GRANT OPTION FROM 'nomothet'@'127.0.0.1';",
                *grants,
            ]
        )
        kept = {"'root'@'localhost'", f"'{own}'@'localhost'", "'nomothet'@'127.0.0.1'", "'mariadb.sys'@'localhost'"}
        found = self._say(["SELECT CONCAT(QUOTE(user), '@', QUOTE(host)) FROM mysql.user;"]).splitlines()
        if others := sorted(set(found) - kept):
            self._say([f"DROP USER {', '.join(others)};"])

    def _say(self, statements: list[str]) -> str:
        """Run statements as who owns the database; where that account is not known yet, as root of an earlier version.
        Returns what was selected.

        Raises
        ------
        LaunchError
            With what the database said.
        """
        said = ""
        for user in dict.fromkeys((_own_name(), "root")):
            client = ["mariadb", "--no-defaults", "--skip-column-names", "-S", str(self._socket), f"-u{user}"]
            done = subprocess.run(client, input="\n".join(statements), capture_output=True, text=True, check=False)
            if done.returncode == 0:
                return done.stdout
            said = done.stderr.strip()
        raise LaunchError(f"The database account could not be made: {said}")


def _own_name() -> str:
    """The account of the operating system that this process runs as."""
    return pwd.getpwuid(os.geteuid()).pw_name
