#!/usr/bin/env python3
"""A player in the standard library of Python 3.8 or newer, written from docs/players-protocol.md alone.

`player.py URL` plays three voyages with two players: open, join, get ready, travel to a dedicated server, board, see the
result, and part; the same with a connection that is cut in the middle; and a search in a queue that has to be confirmed.
Every frame that comes in is checked against asyncapi.json.
"""
import json
import os
import random
import re
import socket
import sys
import time

from schema import Documents
from websocket import Closed, WebSocket

BUILD = "tidewrights-0.3"
RELAY = 1
FINAL = {"taken-over", "kicked", "build-unsupported", "wire-unsupported"}
DOCUMENTS = Documents(os.path.join(os.path.dirname(__file__), "..", "..", "docs", "asyncapi.json"))
FRAMES = {
    "welcome": "Welcome",
    "update": "Update",
    "echo": "Echo",
    "relayed": "Relayed",
    "directory": "Directory",
    "chat": "Chat",
    "notice": "Notice",
    "refused": "Refused",
    "closing": "Closing",
}


class Refused(Exception):
    def __init__(self, problem):
        super().__init__(f"{problem['detail']} ({problem['code']})")
        self.problem = problem
        self.code = problem["code"]


def merge_patch(target, patch):
    """RFC 7396."""
    if not isinstance(patch, dict):
        return patch
    merged = dict(target) if isinstance(target, dict) else {}
    for key, value in patch.items():
        if value is None:
            merged.pop(key, None)
        else:
            merged[key] = merge_patch(merged.get(key), value)
    return merged


class Player:
    def __init__(self, url, name):
        self.url = re.sub("^http", "ws", url).rstrip("/") + "/v1/play"
        self.name = name
        self.scope, self.state = None, None
        self.ticket = self.boarding = self.token = None
        self.heard = 0
        self.events, self.outcomes, self.relayed = [], [], []
        self.requests = 0
        self.asked, self.replies = {}, {}
        self.hello()

    # Connecting

    def hello(self):
        """Says hello, as a newcomer or with the token of the welcome before."""
        self.socket = WebSocket(self.url, "yellow-harbor.1")
        hello = {"frame": "hello", "wire": 1, "build": BUILD}
        if self.token is None:
            hello["name"] = self.name
        else:
            hello.update(resume=self.token, heard=self.heard)
            if self.state is not None:
                hello["have"] = {"scope": self.scope, "id": self.state["id"], "revision": self.state["revision"]}
        self.send(hello)
        self.welcome = self.closing = None
        self.last_heard = self.next_heartbeat = time.monotonic()
        self.round_trip = None
        end = time.monotonic() + 10
        while self.welcome is None:
            if time.monotonic() > end:
                raise TimeoutError("no welcome came")
            self.read(0.1)

    def welcomed(self, frame):
        self.welcome, self.token = frame, frame["resume"]
        self.id, self.heard = frame["player"]["id"], frame["player"]["revision"]
        self.ticket, self.boarding = frame.get("ticket"), frame.get("pass")
        for scope in ("room", "lobby"):
            if scope in frame:
                self.scope, self.state = scope, frame[scope]

    def resume(self):
        """Connects again as the page says: with pauses that double, and not at all when it is over."""
        for attempt in range(12):
            time.sleep(min(5.0, 0.2 * 2**attempt) * random.uniform(0.25, 1))
            try:
                return self.hello()
            except Refused as refused:
                if refused.code in ("player-unknown", "token-invalid"):
                    self.token = self.state = None
                elif refused.code in FINAL or refused.problem["status"] < 500:
                    raise
            except (OSError, Closed):
                pass
        raise ConnectionError("the service cannot be reached")

    def cut(self):
        """Loses the connection."""
        self.socket.drop()

    # Frames

    def send(self, frame):
        self.socket.send(json.dumps(frame))

    def read(self, timeout):
        """Takes what comes, for so many seconds at most; sends heartbeats when they are due."""
        now = time.monotonic()
        if self.welcome is not None:
            if now - self.last_heard > self.welcome["silenceMs"] / 1000:
                self.cut()
                raise Closed(1006, "the service fell silent")
            if now >= self.next_heartbeat:
                self.next_heartbeat = now + self.welcome["heartbeatEveryMs"] / 1000
                more = {} if self.round_trip is None else {"roundTripMs": self.round_trip}
                self.send({"frame": "heartbeat", "sentMs": now * 1000, **more})
        try:
            text = self.socket.receive(timeout)
        except Closed as closed:
            if self.closing is not None:
                raise Refused(self.closing)
            raise closed
        if text is not None:
            self.last_heard = time.monotonic()
            if isinstance(text, bytes):
                self.take_bytes(text)
            else:
                self.take(json.loads(text))

    def relay_bytes(self, to, body):
        """Passes bytes to the room: the kind, whom they are for behind its length, the body."""
        self.socket.send_bytes(bytes([RELAY, len(to)]) + to.encode() + body)

    def take_bytes(self, frame):
        if frame[0] != RELAY:
            return
        room_end = 2 + frame[1]
        sender_end = room_end + 1 + frame[room_end]
        room, sender = frame[2:room_end].decode(), frame[room_end + 1 : sender_end].decode()
        if self.scope == "room" and self.state["id"] == room:
            self.relayed.append((sender, frame[sender_end:]))

    def take(self, frame):
        check(self.asked, frame)
        kind = frame["frame"]
        if kind == "welcome":
            self.welcomed(frame)
        elif kind == "closing":
            self.closing = frame["problem"]
        elif kind == "echo":
            self.round_trip = time.monotonic() * 1000 - frame["sentMs"]
        elif kind == "reply":
            self.replies[frame["id"]] = frame
            for scope in ("room", "lobby"):
                if scope in frame.get("reply", {}):
                    self.scope, self.state = scope, frame["reply"][scope]
        elif kind == "update":
            self.update(frame)

    def update(self, frame):
        event = frame["event"]
        self.events.append(event["kind"])
        if frame["scope"] != "you":
            if self.state is None or (frame["scope"], frame["id"]) != (self.scope, self.state["id"]):
                return
            if frame["revision"] <= self.state["revision"]:
                return
            if frame["revision"] > self.state["revision"] + 1:
                self.cut()
                raise Closed(1006, "an update is missing")
            self.state = {**merge_patch(self.state, frame["patch"]), "revision": frame["revision"]}
            return
        self.heard = frame.get("revision", self.heard)
        if event["kind"] == "boarding-pass":
            self.boarding = event["pass"]
        elif event["kind"] == "into-room":
            self.scope, self.state = "room", event["room"]
        elif event["kind"] == "out-of-room":
            self.scope, self.state = "lobby", event["lobby"]
        elif event["kind"] == "ticket-changed":
            self.ticket = event["ticket"]
        elif event["kind"] == "ticket-ended":
            self.ticket = None
            self.outcomes.append(event["cause"])

    # Asking

    def ask(self, ask, **args):
        """Asks, and waits for the reply. When the connection is lost before it comes, the outcome is unknown."""
        self.requests += 1
        number = self.requests
        self.asked[number] = ask
        self.send({"frame": "request", "id": number, "ask": ask, "args": args})
        end = time.monotonic() + 10
        while number not in self.replies:
            if time.monotonic() > end:
                raise TimeoutError(f"no reply to {ask}")
            self.read(0.05)
        frame = self.replies.pop(number)
        if "problem" in frame:
            raise Refused(frame["problem"])
        return frame["reply"]

    @property
    def phase(self):
        return self.state.get("phase") if self.scope == "room" else None


def check(asked, frame):
    """Holds a frame against the published schemas. Unknown kinds are left alone, as the page says."""
    kind = frame["frame"]
    if kind == "reply":
        name = re.sub(r"(^|[.-])(\w)", lambda found: found.group(2).upper(), asked.get(frame["id"], "")) + "Reply"
        name = "Problem" if "problem" in frame else name
    else:
        name = FRAMES.get(kind)
    faults = DOCUMENTS.faults(name, frame) if name else []
    if faults:
        raise AssertionError(f"a frame does not fit {name}: {'; '.join(faults)}\n{json.dumps(frame)}")


def until(players, holds, what, seconds=30):
    """Reads for all of them until something holds."""
    end = time.monotonic() + seconds
    while not holds():
        if time.monotonic() > end:
            raise TimeoutError(f"not {what} after {seconds} s: {[(one.name, one.phase, one.events[-3:]) for one in players]}")
        for one in players:
            one.read(0.01)


# The voyages


def board(player):
    """Connects to the game's own server and shows the pass: how is the game's affair, here by a line of text."""
    address = player.boarding["address"]
    connection = socket.create_connection((address["host"], address["port"]), 5)
    connection.sendall((player.boarding["pass"] + "\n").encode())
    answer = connection.recv(200).decode()
    assert answer.startswith("welcome"), answer
    return connection


def gather(ansel, brisa):
    room = ansel.ask("room.open", kind="spoken", capacity=2, name="Low water")["room"]
    brisa.ask("room.join", code=room["code"].lower())
    ansel.ask("room.pick-level", level="copper-sound")
    for one in (ansel, brisa):
        one.ask("room.ready", ready=True)
    ansel.ask("board.set", key="tide.marks", value=[1, None, 3])
    until([brisa], lambda: brisa.state.get("board", {}).get("tide.marks"), "on Brisa's board")
    assert brisa.state["board"]["tide.marks"]["box"] == [[1, None, 3]]
    ansel.relay_bytes("others", bytes(range(256)))
    until([brisa], lambda: (ansel.id, bytes(range(256))) in brisa.relayed, "passed the bytes of Ansel")
    try:
        brisa.ask("room.start")
    except Refused as refused:
        assert refused.code == "not-host", refused.code
    ansel.ask("room.start")


def play(ansel, brisa, cut=False):
    """From the travel to the result."""
    both = [ansel, brisa]
    until(both, lambda: ansel.boarding and brisa.boarding, "given boarding passes")
    first = board(ansel)
    if cut:
        brisa.cut()
        brisa.resume()
        assert brisa.welcome["resumed"] and brisa.id in ansel.state["members"]
    second = board(brisa)
    until(both, lambda: ansel.phase == brisa.phase == "playing", "playing")
    assert all(member["aboard"] for member in ansel.state["members"].values())
    if cut:
        ansel.cut()
        until([brisa], lambda: brisa.state["members"][ansel.id]["presence"] == "away", "told that Ansel is away")
        ansel.resume()
        assert ansel.phase == "playing"
    first.sendall(b"finish\n")
    until(both, lambda: "result" in ansel.state and "result" in brisa.state and brisa.phase == "results", "shown the result")
    assert brisa.state["result"]["standings"][0]["player"] == ansel.id
    for connection in (first, second):
        connection.close()


def part(*players):
    for one in players:
        one.ask("room.leave")
        assert one.scope == "lobby"


def match(ansel, brisa):
    """Two strangers search; the first match is declined by nobody."""
    for one in (ansel, brisa):
        one.ask("queue.join", queue="pairs", attributes={"skill": 1500})
    both = [ansel, brisa]
    until(both, lambda: all("confirm" in (one.ticket or {}) for one in both), "asked to confirm")
    for one in both:
        one.ask("queue.confirm", match=one.ticket["confirm"]["match"], accept=True)
    until(both, lambda: ansel.scope == brisa.scope == "room", "in the room of the match")
    assert ansel.outcomes == brisa.outcomes == ["matched"]
    play(ansel, brisa)


def main(url):
    ansel, brisa = Player(url, "Ansel"), Player(url, "Brisa")
    gather(ansel, brisa)
    play(ansel, brisa)
    part(ansel, brisa)
    print("one voyage: met, travelled, boarded, saw the result, parted", flush=True)
    ansel.boarding = brisa.boarding = None
    gather(ansel, brisa)
    play(ansel, brisa, cut=True)
    part(ansel, brisa)
    print("a voyage with cut connections: both resumed, nothing was lost", flush=True)
    ansel.boarding = brisa.boarding = None
    match(ansel, brisa)
    part(ansel, brisa)
    print("a search: found, confirmed, played", flush=True)
    for one in (ansel, brisa):
        one.ask("player.leave")
        try:
            one.read(5)
        except Closed as closed:
            assert closed.code == 1000, closed
    print(f"done: {len(ansel.events) + len(brisa.events)} updates, every frame fits its schema", flush=True)


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:7420")
