#!/usr/bin/env python3
"""Orders on a crossing of two averages; needs only Python's standard library.

Looks for a security whose 9-day average closed above its 33-day average on the last bar, sizes an order so
that 0.8 % of equity is lost at a stop 3 % below, prints what it would send, and with --send sends it, with
stop and target held at the broker, and follows it to the fill.

    python3 crossing.py                  look through everything, print, send nothing
    python3 crossing.py OSPRY GANET      look at these only
    python3 crossing.py --send           send the first that crosses

The key is read from HERON_KEY_ID and HERON_SECRET, or from the file that the demo made (--key-file).
"""
import argparse
import base64
import json
import os
import sys
import time
import urllib.error
import urllib.parse
import urllib.request

FAST, SLOW = 9, 33
RISK_PERCENT, STOP_PERCENT, TARGET_PERCENT = 0.8, 3, 7
OVER = {"Filled", "Canceled", "Rejected", "Expired"}


class Refused(Exception):
    """An answer of the broker that is a problem document (RFC 9457)."""

    def __init__(self, problem):
        super().__init__(f"{problem.get('title')}: {problem.get('detail')} {problem.get('mend', '')}")
        self.kind = problem.get("type", "").rsplit("/", 1)[-1]
        self.problem = problem


class Broker:
    """The few calls that this script needs."""

    def __init__(self, url, key_id, secret):
        self.url = f"{url}/paper"
        self.basic = base64.b64encode(f"{key_id}:{secret}".encode()).decode()
        self.token, self.until = None, 0

    def open(self, method, path, body=None, headers=None, timeout=20):
        request = urllib.request.Request(self.url + path, method=method, headers=headers or {})
        if body is not None:
            request.data = body
        try:
            return urllib.request.urlopen(request, timeout=timeout)
        except urllib.error.HTTPError as error:
            raise Refused(json.load(error)) from None

    def authorization(self):
        if time.monotonic() > self.until - 30:
            form = b"grant_type=client_credentials"
            headers = {"Authorization": f"Basic {self.basic}", "Content-Type": "application/x-www-form-urlencoded"}
            with self.open("POST", "/token", form, headers) as answer:
                token = json.load(answer)
            self.token, self.until = token["access_token"], time.monotonic() + token["expires_in"]
        return {"Authorization": f"Bearer {self.token}"}

    def get(self, path, **query):
        text = f"{path}?{urllib.parse.urlencode(query)}" if query else path
        with self.open("GET", text, headers=self.authorization()) as answer:
            return json.load(answer)

    def post(self, path, body):
        headers = {**self.authorization(), "Content-Type": "application/json"}
        with self.open("POST", path, json.dumps(body).encode(), headers) as answer:
            return json.load(answer)

    def reports(self, after, until):
        """Execution reports after a sequence number; a broken stream is taken up again without loss."""
        while time.monotonic() < until:
            try:
                with self.open("GET", f"/executions/stream?after={after}", headers=self.authorization(), timeout=15) as stream:
                    for line in stream:
                        if line.startswith(b"data:"):
                            report = json.loads(line[5:])
                            if "seq" in report:
                                after = report["seq"]
                                yield report
                        if time.monotonic() > until:
                            return
            except (urllib.error.URLError, OSError):
                time.sleep(0.5)


def average(values, length):
    return sum(values[-length:]) / length


def crossed_above(closes):
    """True if the fast average is above the slow one on the last bar and was not on the bar before."""
    if len(closes) <= SLOW:
        return False
    before = closes[:-1]
    return average(before, FAST) <= average(before, SLOW) and average(closes, FAST) > average(closes, SLOW)


def find(broker, symbols):
    for symbol in symbols or [s["symbol"] for s in broker.get("/securities") if s["orderable"]]:
        bars = broker.get(f"/securities/{urllib.parse.quote(symbol)}/bars", every="1 day", limit=SLOW + 20)["bars"]
        closes = [bar["close"] for bar in bars]
        if crossed_above(closes):
            print(f"{symbol}: the {FAST}-day average {average(closes, FAST):.2f} crossed above the {SLOW}-day "
                  f"average {average(closes, SLOW):.2f} on {bars[-1]['time']}")
            return symbol, bars[-1]["time"]
    return None


def order_for(broker, symbol, date):
    account = broker.get("/account")
    ask = broker.get("/quotes", symbols=symbol)[0]["ask"]
    by_risk = account["equity"] * RISK_PERCENT / 100 / (ask * STOP_PERCENT / 100)
    quantity = int(min(by_risk, account["buyingPower"] / ask))
    return {
        # The same crossing makes the same id: run twice, the script orders once.
        "clOrdId": f"crossing-{symbol}-{date}",
        "symbol": symbol,
        "side": "Buy",
        "orderQty": quantity,
        "ordType": "Market",
        "timeInForce": "Day",
        "exits": {"stop": {"percent": STOP_PERCENT}, "target": {"percent": TARGET_PERCENT}},
    }


def follow(broker, order, seconds):
    """Prints what becomes of an order until it is over; returns its last state."""
    status = order["ordStatus"]
    print(f"acknowledged: {order['orderId']} {status}")
    if status in OVER:
        return status
    for report in broker.reports(order["lastSeq"], time.monotonic() + seconds):
        if report["clOrdId"] != order["clOrdId"]:
            continue
        status = report["ordStatus"]
        fill = f", {report['lastQty']:g} at {report['lastPx']}" if "lastQty" in report else ""
        print(f"{report['transactTime']} {status}{fill}")
        if status in OVER:
            break
    return status


def print_outcome(broker, cl_ord_id):
    orders = broker.get("/orders", which="all")
    order = next(o for o in orders if o["clOrdId"] == cl_ord_id)
    print(f"outcome: {order['ordStatus']}, {order['cumQty']:g} of {order['orderQty']:g} {order['symbol']} "
          f"at {order['avgPx']}")
    for one in orders:
        if one.get("parentOrderId") == order["orderId"]:
            print(f"  {one['role']} {one.get('stopPx', one.get('price'))}: {one['ordStatus']}, held at the broker")


def credentials(key_file):
    if "HERON_KEY_ID" in os.environ and "HERON_SECRET" in os.environ:
        return os.environ["HERON_KEY_ID"], os.environ["HERON_SECRET"]
    try:
        with open(key_file, encoding="utf8") as file:
            key = json.load(file)
        return key["keyId"], key["secret"]
    except OSError as error:
        sys.exit(f"No key: {error}. Start the demo, name its key with --key-file, or set HERON_KEY_ID and HERON_SECRET.")


def main():
    parser = argparse.ArgumentParser(description="Orders on a crossing of two averages.")
    parser.add_argument("symbols", nargs="*", help="securities to look at; all that can be ordered where left out")
    parser.add_argument("--send", action="store_true", help="send the order; without it nothing is sent")
    parser.add_argument("--broker", default=os.environ.get("HERON_BROKER_URL", "http://127.0.0.1:4312"))
    parser.add_argument("--key-file", default=".heron/broker/paper-key.json")
    parser.add_argument("--wait", type=float, default=60, help="seconds to wait for the fill")
    options = parser.parse_args()
    broker = Broker(options.broker, *credentials(options.key_file))
    found = find(broker, options.symbols)
    if not found:
        print("No crossing on the last bar; nothing to order.")
        return 0
    order = order_for(broker, *found)
    print(json.dumps(order, indent=2))
    for check in broker.post("/orders/check", order)["checks"]:
        print(f"  {check['verdict']}: {check['sentence']} {check.get('mend', '')}".rstrip())
    if not options.send:
        print("Dry run: nothing was sent. Add --send to send it.")
        return 0
    try:
        sent = broker.post("/orders", order)
    except Refused as refusal:
        if refusal.kind != "duplicate-client-order-id":
            raise
        sent = refusal.problem["order"]
        print("This crossing was ordered before; following that order.")
    status = follow(broker, sent, options.wait)
    print_outcome(broker, order["clOrdId"])
    return 0 if status == "Filled" else 3


if __name__ == "__main__":
    try:
        sys.exit(main())
    except Refused as refusal:
        sys.exit(f"Refused. {refusal}")
    except urllib.error.URLError as error:
        sys.exit(f"The broker does not answer: {error.reason}. Is the demo running?")
