#!/usr/bin/env python3
"""Lists orders: all of today whatever their state, or those that are asked for.

    python3 list_orders.py
    python3 list_orders.py --symbol OSPRY --from 2026-03-02
    python3 list_orders.py --which working
"""
import argparse

from heron import arguments, connect, run


def main():
    parser = argparse.ArgumentParser(description="Lists orders.")
    for name in ("which", "symbol", "from", "to", "begins"):
        parser.add_argument(f"--{name}")
    options = vars(arguments(parser)).copy()
    names = {"which": "which", "symbol": "symbol", "from": "from", "to": "to", "begins": "clOrdIdBegins"}
    query = {field: options[name] for name, field in names.items() if options[name]}
    orders = connect(argparse.Namespace(**options)).orders(**query)
    for order in orders:
        price = order.get("stopPx") or order.get("price") or "market"
        print(f"{order['enteredTime']}  {order['clOrdId']:<36} {order['side']:<9} {order['orderQty']:>7g} "
              f"{order['symbol']:<8} {order['ordType']} {price}  {order['ordStatus']}, {order['cumQty']:g} filled")
    print(f"{len(orders)} orders")
    return 0


if __name__ == "__main__":
    run(main)
