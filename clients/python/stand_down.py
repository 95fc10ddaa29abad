#!/usr/bin/env python3
"""Cancels every working order and, with --flatten, closes every position at the market.

    python3 stand_down.py                    say what it would do
    python3 stand_down.py --flatten --send
"""
import argparse

from heron import arguments, connect, run


def main():
    parser = argparse.ArgumentParser(description="Stands down.")
    parser.add_argument("--flatten", action="store_true", help="close positions too")
    options = arguments(parser)
    heron = connect(options)
    working = heron.orders(which="working")
    held = [one for one in heron.positions() if one["quantity"]]
    print(f"{len(working)} working orders: {', '.join(order['clOrdId'] for order in working) or 'none'}")
    print(f"{len(held)} positions: {', '.join(one['symbol'] for one in held) or 'none'}")
    if not options.send:
        print("Dry run: nothing was sent. Add --send to stand down.")
        return 0
    done = heron.stand_down(options.flatten)
    print(f"canceled {len(done['canceled'])}, closing {len(done['closing'])}")
    for why in done["left"]:
        print(f"left: {why}")
    return 3 if done["left"] else 0


if __name__ == "__main__":
    run(main)
