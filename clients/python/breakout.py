#!/usr/bin/env python3
"""A stop order above the high of the session so far, at most one entry a day.

The client order id is made of the day: started again, or twice at once, the broker takes one order and refuses the
others. All of the day's orders are looked at, whatever their state, and not the open ones alone: an entry that was filled
and left again counts as one.

    python3 breakout.py OSPRY            print, send nothing
    python3 breakout.py OSPRY --send
"""
import argparse

from heron import arguments, connect, order_id, propose, run

RISK_PERCENT, STOP_PERCENT, TIMES_THE_RISK = 0.5, 1.5, 2


def main():
    parser = argparse.ArgumentParser(description="A stop order above the session's high.")
    parser.add_argument("symbol")
    options = arguments(parser)
    heron = connect(options)
    security = heron.get(f"/securities/{options.symbol}")
    session = heron.get(f"/venues/{security['venue']}/session")
    if session["state"] != "Open":
        print(f"{session['name']} is closed until {session['opens']}; nothing to do.")
        return 0
    name = order_id("breakout", options.symbol, session["date"], "long")
    before = heron.orders(clOrdIdBegins=name)
    taken = [order for order in before if order["role"] == "Entry" and order["ordStatus"] != "Rejected"]
    if taken:
        print(f"Today's entry stands already: {taken[0]['clOrdId']} {taken[0]['ordStatus']}.")
        return 0
    today = heron.get(f"/securities/{options.symbol}/bars", every="1 day", limit=1, soFar="true")["bars"][-1]
    above = round(today["high"] + 0.01, 2)
    balance = heron.balance()
    by_risk = balance["equity"] * RISK_PERCENT / 100 / (above * STOP_PERCENT / 100)
    order = {
        "clOrdId": name,
        "symbol": options.symbol,
        "side": "Buy",
        "orderQty": int(min(by_risk, balance["buyingPower"] / above)),
        "ordType": "Stop",
        "stopPx": above,
        "timeInForce": "Day",
        "exits": {"stop": {"percent": STOP_PERCENT}, "target": {"risk": TIMES_THE_RISK}},
        "text": "breakout of the session's high",
    }
    sent = propose(heron, order, options.send)
    if sent:
        print(f"{sent['clOrdId']} {sent['ordStatus']}: rests above {above}")
    return 0


if __name__ == "__main__":
    run(main)
