#!/usr/bin/env python3
"""Changes the price of a working order, or cancels orders.

    python3 change_and_cancel.py --change my-1 --price 11.80 --send
    python3 change_and_cancel.py --cancel my-1 --send
    python3 change_and_cancel.py --cancel-symbol OSPRY --send

A change can lose the race against a fill: then nothing is changed, and the answer tells how the order stands.
"""
import argparse

from heron import Refused, arguments, connect, run


def next_id(name):
    """a-1 becomes a-1.2, then a-1.3: both ids stand for the order."""
    stem, dot, count = name.rpartition(".")
    return f"{stem}.{int(count) + 1}" if dot and count.isdigit() else f"{name}.2"


def main():
    parser = argparse.ArgumentParser(description="Changes or cancels working orders.")
    parser.add_argument("--change", metavar="ID")
    parser.add_argument("--price", type=float)
    parser.add_argument("--stop", type=float)
    parser.add_argument("--quantity", type=int)
    parser.add_argument("--cancel", metavar="ID")
    parser.add_argument("--cancel-symbol", metavar="SYMBOL")
    options = arguments(parser)
    if not (options.change or options.cancel or options.cancel_symbol):
        parser.error("say --change, --cancel or --cancel-symbol")
    heron = connect(options)
    try:
        if options.change:
            fields = {"price": options.price, "stopPx": options.stop, "orderQty": options.quantity}
            change = {name: value for name, value in fields.items() if value is not None}
            change["clOrdId"] = next_id(options.change)
            print(f"{options.change}: {change}")
            if options.send:
                after = heron.replace(options.change, change)
                print(f"{after['clOrdId']} {after['ordStatus']}, was {after['origClOrdId']}")
        if options.cancel:
            print(f"cancel {options.cancel}")
            if options.send:
                print(heron.cancel(options.cancel)["ordStatus"])
        if options.cancel_symbol:
            meant = heron.orders(which="working", symbol=options.cancel_symbol)
            print("cancel", ", ".join(order["clOrdId"] for order in meant) or "nothing")
            if options.send:
                print(f"{len(heron.cancel_many(symbol=options.cancel_symbol))} canceled")
    except Refused as refusal:
        order = refusal.problem.get("order")
        print(f"Nothing was changed. {refusal}")
        if order:
            print(f"It stands {order['ordStatus']}, {order['cumQty']:g} of {order['orderQty']:g} filled.")
        return 3
    if not options.send:
        print("Dry run: nothing was sent. Add --send to do it.")
    return 0


if __name__ == "__main__":
    run(main)
