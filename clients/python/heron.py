"""The stand-in broker's API in one file; needs only Python's standard library (3.9 or later).

    from heron import Heron, order_id
    heron = Heron.connect()                      # paper, with the key that the demo made; says who asks
    for order in heron.orders(symbol="OSPRY"):   # all of today, whatever their state, every page
        print(order["clOrdId"], order["ordStatus"])

Fields are those of docs/api.md. Amounts are floats as they stand in JSON. Nothing here writes a secret anywhere.
"""
from __future__ import annotations

import base64
import json
import os
import re
import socket
import stat
import sys
import time
import urllib.error
import urllib.parse
import urllib.request
from typing import Any, Dict, Iterator, List, Optional

API_VERSION = "1"
Json = Dict[str, Any]

#: States in which an order will not trade any more.
OVER = frozenset({"Filled", "Canceled", "Rejected", "Expired"})


class Refused(Exception):
    """An answer of the broker that is a problem document (RFC 9457): `kind`, `detail`, `mend`."""

    def __init__(self, problem: Json, status: int) -> None:
        super().__init__(f"{problem.get('title')}: {problem.get('detail')} {problem.get('mend', '')}".strip())
        self.kind: str = str(problem.get("type", "")).rsplit("/", 1)[-1]
        self.status = status
        self.problem = problem


class Unreachable(Exception):
    """The broker did not answer, also when it was asked again."""


class WrongVersion(Exception):
    """The broker speaks another version of its API than this file."""


def order_id(program: str, security: str, session: str, signal: str) -> str:
    """A client order id: the same four parts make the same id, so that a repeated order is refused, not doubled.

    Raises ValueError where they come to more than 64 characters.
    """
    parts = (re.sub(r"[^A-Za-z0-9._:]+", "-", part.strip()) for part in (program, security, session, signal))
    made = "-".join(parts)
    if len(made) > 64:
        raise ValueError(f"the client order id {made!r} has {len(made)} characters; 64 are the most")
    return made


def read_key(path: str) -> Json:
    """Key and secret from a file that only its owner can read. Raises PermissionError where others can."""
    if os.name == "posix" and stat.S_IMODE(os.stat(path).st_mode) & 0o077:
        raise PermissionError(f"others can read {path}; say: chmod 600 {path}")
    with open(path, encoding="utf8") as file:
        return json.load(file)


class Heron:
    """One world (paper unless another is named) as one key sees it."""

    def __init__(self, key_id: str, secret: str, url: str, world: str, account: Optional[str]) -> None:
        self.url, self.world, self.account = url.rstrip("/"), world, account
        self._basic = base64.b64encode(f"{key_id}:{secret}".encode()).decode()
        self._token, self._until = "", 0.0

    @classmethod
    def connect(
        cls,
        key_file: Optional[str] = None,
        url: Optional[str] = None,
        world: str = "paper",
        account: Optional[str] = None,
        live: bool = False,
        quiet: bool = False,
    ) -> "Heron":
        """Asks the broker who this is, prints it, and gives the connection.

        The key is read from HERON_KEY_ID and HERON_SECRET, or from a file. Live needs `live=True` and a live key.
        Raises Refused, Unreachable, WrongVersion, PermissionError, FileNotFoundError, ValueError.
        """
        key = {"keyId": os.environ.get("HERON_KEY_ID"), "secret": os.environ.get("HERON_SECRET")}
        if not (key["keyId"] and key["secret"]):
            key = read_key(key_file or ".heron/broker/paper-key.json")
        if str(key["keyId"]).startswith("live-") and not live:
            raise ValueError(f"{key['keyId']} is a live key: say live=True outright, or use a paper key")
        made = cls(
            str(key["keyId"]),
            str(key["secret"]),
            url or os.environ.get("HERON_BROKER_URL", "http://127.0.0.1:4312"),
            "live" if live else world,
            account,
        )
        who = made.whoami()
        if who.get("api") != API_VERSION:
            raise WrongVersion(f"the broker speaks version {who.get('api')} of its API, heron.py {API_VERSION}")
        if not quiet:
            where = f"{made.world}, a stand-in: no real money" if live else made.world
            print(f"{who['key']['label']} ({who['key']['keyId']}) in {where}, account "
                  f"{account or who.get('account')}, may {', '.join(who['scopes'])}", file=sys.stderr)
        return made

    # -- what is asked -----------------------------------------------------------------------------------------

    def whoami(self) -> Json:
        """Key, environment, accounts, scopes, rights to prices, market time."""
        return self.get("/whoami")

    def quote(self, symbol: str) -> Json:
        return self.get("/quotes", symbols=symbol)[0]

    def bars(self, symbol: str, every: str, limit: int) -> List[Json]:
        return self.get(f"/securities/{urllib.parse.quote(symbol)}/bars", every=every, limit=limit)["bars"]

    def options(self, underlying: str, **query: str) -> List[Json]:
        """Contracts of an underlying, by strike: `putOrCall`, `strikeFrom`, `strikeTo`, `maturityFrom`, `maturityTo`."""
        return self.get("/options", underlyingSymbol=underlying, **query)

    def groups(self) -> List[Json]:
        """What orders of one group hold together."""
        return self.get("/groups", **self._of())

    def balance(self) -> Json:
        """Cash, equity, buying power of the account."""
        return self.get("/account", **self._of())

    def positions(self) -> List[Json]:
        return self.get("/positions", **self._of())

    def orders(self, **query: str) -> List[Json]:
        """Orders, newest first: all of today whatever their state, or by which, symbol, ordStatus, clOrdIdBegins ..."""
        return self.pages("/orders", **self._of(), **query)

    def order(self, cl_ord_id: str) -> Json:
        return self.get(f"/orders/{urllib.parse.quote(cl_ord_id, safe='')}", **self._of())

    def executions(self, after: int = 0) -> List[Json]:
        """Execution reports after a seq, oldest first, every page."""
        return self.pages("/executions", **self._of(), after=str(after))

    # -- what is sent ------------------------------------------------------------------------------------------

    def check(self, order: Json) -> Json:
        """Every check that the order would be put to; nothing is sent."""
        return self._json("POST", "/orders/check", {**order, **self._of()})

    def send(self, order: Json) -> Json:
        """Sends an order. Where an answer was lost it is sent again under the same id, which cannot double it."""
        try:
            return self._json("POST", "/orders", {**order, **self._of()}, again=True)
        except Refused as refusal:
            # A first try that arrived although its answer was lost is the order that was meant.
            if refusal.kind == "duplicate-client-order-id" and refusal.problem.get("again"):
                return refusal.problem["order"]
            raise

    def replace(self, cl_ord_id: str, change: Json) -> Json:
        return self._json("PATCH", f"/orders/{urllib.parse.quote(cl_ord_id, safe='')}", change, **self._of())

    def cancel(self, cl_ord_id: str) -> Json:
        return self._json("DELETE", f"/orders/{urllib.parse.quote(cl_ord_id, safe='')}", **self._of())

    def cancel_many(self, **query: str) -> List[Json]:
        """Cancels all working orders that are meant: symbol, side, clOrdIdBegins, text, or which="working"."""
        return self._json("DELETE", "/orders", **self._of(), **query)

    def stand_down(self, flatten: bool = False) -> Json:
        """Cancels every working order and, if asked, closes every position at the market."""
        return self._json("POST", "/stand-down", {"flatten": flatten, **self._of()})

    def reports(self, after: Optional[int] = None, seconds: Optional[float] = None) -> Iterator[Json]:
        """Execution reports as they happen. A broken stream is taken up again after the last one that came."""
        until = time.monotonic() + seconds if seconds is not None else None
        last_id: Optional[str] = None
        query = self._of() if after is None else {**self._of(), "after": str(after)}
        wait = 0.25
        while until is None or time.monotonic() < until:
            headers = {"Last-Event-ID": last_id} if last_id else {}
            try:
                with self._open("GET", "/executions/stream", query=query, headers=headers, timeout=15) as stream:
                    event_id, wait = None, 0.25
                    for raw in stream:
                        line = raw.decode().rstrip("\n")
                        if line.startswith("id:"):
                            event_id = line[3:].strip()
                        elif line.startswith("data:"):
                            report = json.loads(line[5:])
                            if "seq" in report:
                                last_id = event_id
                                yield report
                        if until is not None and time.monotonic() > until:
                            return
            except (urllib.error.URLError, OSError):
                time.sleep(wait)
                wait = min(5.0, wait * 2)

    # -- how -------------------------------------------------------------------------------------------------

    def get(self, path: str, **query: Any) -> Any:
        return self._json("GET", path, **query)

    def pages(self, path: str, **query: Any) -> List[Json]:
        """A list, every page of it: an answer that is cut tells in Link where the rest is."""
        found: List[Json] = []
        url: Optional[str] = self._url(path, query)
        while url:
            with self._open("GET", url) as answer:
                found += json.load(answer)
                rest = re.search(r'<([^>]+)>; rel="next"', answer.headers.get("Link") or "")
            url = self.url + rest.group(1) if rest else None
        return found

    def _of(self) -> Dict[str, str]:
        return {"account": self.account} if self.account else {}

    def _url(self, path: str, query: Json) -> str:
        return f"{self.url}/{self.world}{path}" + (f"?{urllib.parse.urlencode(query)}" if query else "")

    def _authorization(self) -> Dict[str, str]:
        if time.monotonic() > self._until - 30:
            form = b"grant_type=client_credentials"
            headers = {"Authorization": f"Basic {self._basic}", "Content-Type": "application/x-www-form-urlencoded"}
            with self._request("POST", self._url("/token", {}), form, headers, 20) as answer:
                token = json.load(answer)
            self._token, self._until = token["access_token"], time.monotonic() + token["expires_in"]
        return {"Authorization": f"Bearer {self._token}"}

    def _open(self, method: str, path: str, body: Optional[Json] = None, query: Optional[Json] = None,
              headers: Optional[Dict[str, str]] = None, timeout: float = 20) -> Any:
        url = path if path.startswith("http") else self._url(path, query or {})
        sent = {**self._authorization(), **(headers or {})}
        data = None
        if body is not None:
            data, sent["Content-Type"] = json.dumps(body).encode(), "application/json"
        return self._request(method, url, data, sent, timeout)

    @staticmethod
    def _request(method: str, url: str, data: Optional[bytes], headers: Dict[str, str], timeout: float) -> Any:
        try:
            return urllib.request.urlopen(
                urllib.request.Request(url, data=data, method=method, headers=headers), timeout=timeout
            )
        except urllib.error.HTTPError as error:
            raise Refused(json.load(error), error.code) from None

    def _json(self, method: str, path: str, body: Optional[Json] = None, again: bool = False, **query: Any) -> Any:
        """Asks, again where the broker does not answer: what only reads, and what an id keeps from being doubled."""
        tries = 4 if again or method == "GET" else 1
        for n in range(tries):
            try:
                with self._open(method, path, body, query) as answer:
                    return json.load(answer)
            except Refused as refusal:
                refusal.problem["again"] = n > 0
                if refusal.kind == "too-many-requests" and n + 1 < tries:
                    time.sleep(1)
                    continue
                raise
            except (urllib.error.URLError, socket.timeout, ConnectionError) as error:
                if n + 1 == tries:
                    raise Unreachable(f"the broker does not answer at {self.url}: {error}") from None
                time.sleep(0.25 * 2**n)


def arguments(parser: Any) -> Any:
    """The options that every example takes, and what was given of them."""
    parser.add_argument("--send", action="store_true", help="do it; without this it is checked and printed")
    parser.add_argument("--broker", default=None, help="where it is, http://127.0.0.1:4312 where left out")
    parser.add_argument("--key-file", default=None, help="key and secret as JSON")
    parser.add_argument("--account", default=None)
    parser.add_argument("--live", action="store_true", help="the live stand-in; needs a live key")
    return parser.parse_args()


def connect(options: Any) -> Heron:
    return Heron.connect(options.key_file, options.broker, account=options.account, live=options.live)


def run(main: Any) -> None:
    """Runs an example; what goes wrong is said in a sentence."""
    try:
        sys.exit(main())
    except Refused as refusal:
        sys.exit(f"Refused. {refusal}")
    except (Unreachable, WrongVersion, PermissionError, ValueError) as error:
        sys.exit(str(error))
    except FileNotFoundError as error:
        sys.exit(f"No key: {error}. Start the demo, or name a key with --key-file.")


def show(checks: Json) -> None:
    """Prints what an order was checked for."""
    for check in checks["checks"]:
        print(f"  {check['verdict']}: {check['sentence']} {check.get('mend', '')}".rstrip())


def propose(heron: Heron, order: Json, send: bool) -> Optional[Json]:
    """Prints an order and what it was checked for, and sends it where that is wished; None where nothing was sent.

    Ends the program (code 3) where it would be refused.
    """
    print(json.dumps(order))
    checks = heron.check(order)
    show(checks)
    if not checks["accepted"]:
        print("It would be refused, so nothing is sent.")
        sys.exit(3)
    if send:
        return heron.send(order)
    print("Dry run: nothing was sent. Add --send to send it.")
    return None
