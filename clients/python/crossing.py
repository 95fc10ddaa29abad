#!/usr/bin/env python3
"""Orders on a crossing of two averages; needs only Python's standard library and heron.py beside it.

Looks for a security whose 9-day average closed above its 33-day average on the last bar, sizes an order so
that 0.8 % of equity is lost at a stop 3 % below, prints what it would send, and with --send sends it, with
stop and target held at the broker, and follows it to the fill.

    python3 crossing.py                  look through everything, print, send nothing
    python3 crossing.py OSPRY GANET      look at these only
    python3 crossing.py --send           send the first that crosses

The key is read from HERON_KEY_ID and HERON_SECRET, or from the file that the demo made (--key-file).
"""
import argparse
import json

from heron import OVER, Refused, arguments, connect, order_id, run, show

FAST, SLOW = 9, 33
RISK_PERCENT, STOP_PERCENT, TARGET_PERCENT = 0.8, 3, 7


def average(values, length):
    return sum(values[-length:]) / length


def crossed_above(closes):
    """True if the fast average is above the slow one on the last bar and was not on the bar before."""
    if len(closes) <= SLOW:
        return False
    before = closes[:-1]
    return average(before, FAST) <= average(before, SLOW) and average(closes, FAST) > average(closes, SLOW)


def find(heron, symbols):
    for symbol in symbols or [s["symbol"] for s in heron.get("/securities") if s["orderable"]]:
        bars = heron.bars(symbol, "1 day", SLOW + 20)
        closes = [bar["close"] for bar in bars]
        if crossed_above(closes):
            print(f"{symbol}: the {FAST}-day average {average(closes, FAST):.2f} crossed above the {SLOW}-day "
                  f"average {average(closes, SLOW):.2f} on {bars[-1]['time']}")
            return symbol, bars[-1]["time"]
    return None


def order_for(heron, symbol, date):
    account = heron.balance()
    ask = heron.quote(symbol)["ask"]
    by_risk = account["equity"] * RISK_PERCENT / 100 / (ask * STOP_PERCENT / 100)
    return {
        # The same crossing makes the same id: run twice, the script orders once.
        "clOrdId": order_id("crossing", symbol, date, "up"),
        "symbol": symbol,
        "side": "Buy",
        "orderQty": int(min(by_risk, account["buyingPower"] / ask)),
        "ordType": "Market",
        "timeInForce": "Day",
        "exits": {"stop": {"percent": STOP_PERCENT}, "target": {"percent": TARGET_PERCENT}},
    }


def follow(heron, order, seconds):
    """Prints what becomes of an order until it is over; returns its last state."""
    status = order["ordStatus"]
    print(f"acknowledged: {order['orderId']} {status}")
    if status in OVER:
        return status
    for report in heron.reports(order["lastSeq"], seconds):
        if report["clOrdId"] != order["clOrdId"]:
            continue
        status = report["ordStatus"]
        fill = f", {report['lastQty']:g} at {report['lastPx']}" if "lastQty" in report else ""
        print(f"{report['transactTime']} {status}{fill}")
        if status in OVER:
            break
    return status


def print_outcome(heron, cl_ord_id):
    order = heron.order(cl_ord_id)
    print(f"outcome: {order['ordStatus']}, {order['cumQty']:g} of {order['orderQty']:g} {order['symbol']} "
          f"at {order['avgPx']}")
    for one in heron.orders(which="all", symbol=order["symbol"]):
        if one.get("parentOrderId") == order["orderId"]:
            print(f"  {one['role']} {one.get('stopPx', one.get('price'))}: {one['ordStatus']}, held at the broker")


def main():
    parser = argparse.ArgumentParser(description="Orders on a crossing of two averages.")
    parser.add_argument("symbols", nargs="*", help="securities to look at; all that can be ordered where left out")
    parser.add_argument("--wait", type=float, default=60, help="seconds to wait for the fill")
    options = arguments(parser)
    heron = connect(options)
    found = find(heron, options.symbols)
    if not found:
        print("No crossing on the last bar; nothing to order.")
        return 0
    order = order_for(heron, *found)
    print(json.dumps(order, indent=2))
    show(heron.check(order))
    if not options.send:
        print("Dry run: nothing was sent. Add --send to send it.")
        return 0
    try:
        sent = heron.send(order)
    except Refused as refusal:
        if refusal.kind != "duplicate-client-order-id":
            raise
        sent = refusal.problem["order"]
        print("This crossing was ordered before; following that order.")
    status = follow(heron, sent, options.wait)
    print_outcome(heron, order["clOrdId"])
    return 0 if status == "Filled" else 3


if __name__ == "__main__":
    run(main)
