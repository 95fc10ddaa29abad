#!/usr/bin/env python3
"""Buys one stock and sells another short for the same amount of money; closes both again with --close.

Both orders are checked before either is sent. Should the broker refuse the second although its check passed, the first
is closed again at the market and the script says so: one leg alone is not the trade that was meant.

    python3 pair.py OSPRY GANET --money 4000            print, send nothing
    python3 pair.py OSPRY GANET --money 4000 --send
    python3 pair.py OSPRY GANET --close --send
"""
import argparse
import json

from heron import Refused, arguments, connect, order_id, run, show


def leg(name, symbol, side, quantity, text):
    return {
        "clOrdId": name,
        "symbol": symbol,
        "side": side,
        "orderQty": quantity,
        "ordType": "Market",
        "timeInForce": "Day",
        "text": text,
    }


def opening(heron, long, short, money, day, text):
    asks, bids = heron.quote(long)["ask"], heron.quote(short)["bid"]
    return [
        leg(order_id("pair", long, day, "in"), long, "Buy", int(money / asks), text),
        leg(order_id("pair", short, day, "in"), short, "SellShort", int(money / bids), text),
    ]


def closing(heron, symbols, day, text):
    held = {one["symbol"]: one["quantity"] for one in heron.positions()}
    return [
        leg(order_id("pair", symbol, day, "out"), symbol, "Sell" if held[symbol] > 0 else "Buy",
            abs(held[symbol]), text)
        for symbol in symbols
        if held.get(symbol)
    ]


def main():
    parser = argparse.ArgumentParser(description="A pair of two stocks.")
    parser.add_argument("long")
    parser.add_argument("short")
    parser.add_argument("--money", type=float, default=4000, help="for each of the two")
    parser.add_argument("--close", action="store_true")
    options = arguments(parser)
    heron = connect(options)
    day = heron.whoami()["now"][:10]
    text = f"pair {options.long}/{options.short}"
    if options.close:
        orders = closing(heron, [options.long, options.short], day, text)
    else:
        orders = opening(heron, options.long, options.short, options.money, day, text)
    if not orders:
        print("Nothing of the pair is held.")
        return 0
    accepted = True
    for order in orders:
        print(json.dumps(order))
        checks = heron.check(order)
        show(checks)
        accepted = accepted and checks["accepted"]
    if not accepted:
        print("One of the two would be refused, so neither is sent.")
        return 3
    if not options.send:
        print("Dry run: nothing was sent. Add --send to send both.")
        return 0
    done = []
    for order in orders:
        try:
            done.append(heron.send(order))
            print(f"{order['clOrdId']} {done[-1]['ordStatus']}")
        except Refused as refusal:
            print(f"{order['clOrdId']} was refused: {refusal}")
            for first in done:
                back = "Sell" if first["side"] == "Buy" else "Buy"
                undo = leg(f"{first['clOrdId']}-undo", first["symbol"], back, first["orderQty"], f"{text}: undone")
                print(f"{undo['clOrdId']} {heron.send(undo)['ordStatus']}: the first leg is closed again")
            return 3
    return 0


if __name__ == "__main__":
    run(main)
