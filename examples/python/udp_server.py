#!/usr/bin/env python3
"""A small UDP server that knows nothing of Yellow Harbor: what is known of it is what it prints, and that it answers.

Each datagram is one message. On its own port: "join NAME" is answered "welcome NAME", "point" gives the sender a point,
"finish" ends the match, "leave" leaves. On its query port: "status" is answered with the level and the number of players.
Python 3.8 or newer, standard library only.
"""
import argparse
import selectors
import signal
import socket
import sys
import time

SILENCE_S = 20


def say(text):
    print(text, flush=True)


class Match:
    def __init__(self, level):
        self.level = level
        self.players = {}

    def hear(self, message, sender):
        """Returns the answer to a player's message, or None."""
        word, _, name = message.partition(" ")
        if word == "join" and name:
            if sender not in self.players:
                self.players[sender] = {"name": name, "points": 0, "heard": time.monotonic()}
                say(f"joined {name}")
            return f"welcome {name}"
        player = self.players.get(sender)
        if player is None:
            return "join first"
        player["heard"] = time.monotonic()
        if word == "point":
            player["points"] += 1
            say(f"score {player['points']} of {player['name']}")
            return f"points {player['points']}"
        if word == "finish":
            say("match over")
            return "over"
        if word == "leave":
            self.leave(sender)
            return "bye"
        return None

    def leave(self, sender):
        say(f"left {self.players.pop(sender)['name']}")

    def sweep(self):
        """There is no connection that could end: whoever is silent has left."""
        for sender, player in list(self.players.items()):
            if time.monotonic() - player["heard"] > SILENCE_S:
                self.leave(sender)

    def status(self):
        return f"status level={self.level or 'any'} players={len(self.players)}"


def bound(host, port):
    opened = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    opened.bind((host, port))
    return opened


def main():
    options = argparse.ArgumentParser()
    options.add_argument("--host", default="127.0.0.1")
    options.add_argument("--port", type=int, required=True)
    options.add_argument("--query-port", type=int, required=True)
    options.add_argument("--level", default="")
    asked = options.parse_args()
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    match = Match(asked.level)
    game, query = bound(asked.host, asked.port), bound(asked.host, asked.query_port)
    ready = selectors.DefaultSelector()
    for each in (game, query):
        ready.register(each, selectors.EVENT_READ)
    while True:
        for key, _ in ready.select(timeout=1):
            data, sender = key.fileobj.recvfrom(2048)
            message = data.decode("utf-8", "replace").strip()
            answer = match.hear(message, sender) if key.fileobj is game else match.status() if message == "status" else None
            if answer is not None:
                key.fileobj.sendto(answer.encode(), sender)
        match.sweep()


if __name__ == "__main__":
    main()
