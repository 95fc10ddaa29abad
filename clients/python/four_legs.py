#!/usr/bin/env python3
"""Writes a put and a call about the price and buys one further out on each side: four legs, one order, one net credit.

The contracts are taken by their place in the chain: the written ones so many strikes from the price, the bought ones
so many strikes further. The order is checked, with what it keeps as margin, before anything is sent. It is a Limit at the
middle of the four quotes, or at --credit, and rests for the day. The account needs option level 3.

    python3 four_legs.py GANET                            print, send nothing
    python3 four_legs.py GANET --expiry 2026-04-17 --near 2 --far 1 --credit 1.85 --send --account SPREADS
"""
import argparse

from heron import arguments, connect, order_id, propose, run


def nearest(chain, price):
    """Place of the strike that lies nearest to a price."""
    return min(range(len(chain)), key=lambda at: abs(chain[at]["option"]["strikePrice"] - price))


def choose(heron, symbol, expiry, near, far):
    """The four contracts: put bought, put written, call written, call bought."""
    last = heron.quote(symbol)["last"]
    picked = []
    for right, way in (("Put", -1), ("Call", 1)):
        chain = heron.options(symbol, putOrCall=right, maturityFrom=expiry, maturityTo=expiry)
        places = [nearest(chain, last) + way * near, nearest(chain, last) + way * (near + far)] if chain else [-1]
        if any(place < 0 or place >= len(chain) for place in places):
            raise ValueError(f"the chain of {symbol} for {expiry} does not reach so far; choose nearer strikes or another expiry")
        picked.append([chain[place] for place in places])
    (put, lower), (call, higher) = picked
    return [(lower, "Buy"), (put, "SellShort"), (call, "SellShort"), (higher, "Buy")]


def main():
    parser = argparse.ArgumentParser(description="Four option legs as one order.")
    parser.add_argument("symbol")
    parser.add_argument("--expiry", help="a date of the chain; the first that is three weeks away where left out")
    parser.add_argument("--near", type=int, default=1, help="strikes between the price and those that are written")
    parser.add_argument("--far", type=int, default=1, help="strikes from those to the ones that are bought")
    parser.add_argument("--credit", type=float, help="net price to receive a share; the middle where left out")
    parser.add_argument("--units", type=int, default=1)
    options = arguments(parser)
    heron = connect(options)
    day = heron.whoami()["now"][:10]
    if not options.expiry:
        from datetime import date, timedelta
        soonest = (date.fromisoformat(day) + timedelta(days=21)).isoformat()
        dates = sorted({one["option"]["maturityDate"] for one in heron.options(options.symbol, maturityFrom=soonest)})
        if not dates:
            raise ValueError(f"there are no options of {options.symbol}")
        options.expiry = dates[0]
    legs = choose(heron, options.symbol, options.expiry, options.near, options.far)
    middle = 0.0
    for contract, side in legs:
        quote = heron.quote(contract["symbol"])
        middle += (1 if side == "Buy" else -1) * (quote["bid"] + quote["ask"]) / 2
        print(f"  {side:<9} {contract['symbol']}  bid {quote['bid']:.2f}  ask {quote['ask']:.2f}")
    credit = options.credit if options.credit is not None else -middle
    order = {
        "clOrdId": order_id("four-legs", options.symbol, day, options.expiry),
        "symbol": options.symbol,
        "side": "Buy",
        "orderQty": options.units,
        "ordType": "Limit",
        "price": -round(credit, 2),
        "timeInForce": "Day",
        "legs": [{"symbol": contract["symbol"], "legSide": side} for contract, side in legs],
        "origin": {"from": "Script", "name": "four_legs.py"},
    }
    sent = propose(heron, order, options.send)
    if sent:
        print(f"{sent['clOrdId']} {sent['ordStatus']}, keeps {sent.get('kept', 0):.2f}")
    return 0


if __name__ == "__main__":
    run(main)
