#!/usr/bin/env python3
"""A dedicated server that speaks the instances' protocol by plain HTTP: announce, poll, board, unboard, report, goodbye.

A client sends its boarding pass as the first line, then words. "finish" ends the match, "cheat" has the server kick the player. With --udp each datagram is one
of these messages. Python 3.8 or newer, standard library only. Read it beside docs/instances-protocol.md.
"""
import json
import os
import signal
import socketserver
import sys
import threading
import time
import urllib.error
import urllib.request

URL = os.environ["YELLOW_HARBOR_URL"]
KEY = os.environ["YELLOW_HARBOR_KEY"]
HOST = os.environ["YELLOW_HARBOR_HOST"]
PORT = int(os.environ["YELLOW_HARBOR_PORT"])

lock = threading.Lock()
aboard = set()
match = None
gone = threading.Event()


def say(text):
    print(text, flush=True)


def call(step, body, attempts=100):
    """Repeats a call while the service does not answer; returns the status and the answer."""
    request = urllib.request.Request(
        f"{URL}/v1/instance/{step}",
        json.dumps(body).encode(),
        {"authorization": f"Bearer {KEY}", "content-type": "application/json"},
    )
    for _ in range(attempts):
        try:
            with urllib.request.urlopen(request, timeout=30) as response:
                return response.status, json.load(response)
        except urllib.error.HTTPError as error:
            if error.code < 500:
                return error.code, json.load(error)
        except (urllib.error.URLError, OSError):
            pass
        time.sleep(0.2)
    say("the service has been away for too long")
    os._exit(4)


def board(shown, sender):
    """Shows a pass to the service; returns the player, or None with why not."""
    status, answer = call("board", {"pass": shown, "attempt": f"{sender[1]}-{time.monotonic_ns()}"})
    if status != 200:
        return None, f"refused: {answer.get('detail', status)}"
    player = answer["player"]
    with lock:
        aboard.add(player["id"])
    say(f"{player['name']} has boarded")
    return player, f"welcome {player['name']}"


def unboard(player):
    with lock:
        aboard.discard(player["id"])
    call("unboard", {"player": player["id"], "reason": "left"}, attempts=3)


def kick(player, why):
    with lock:
        aboard.discard(player["id"])
    call("kick", {"player": player["id"], "reason": why}, attempts=3)


class Player(socketserver.StreamRequestHandler):
    def handle(self):
        shown = self.rfile.readline(4096).decode("utf-8", "replace").strip()
        player, answer = board(shown, self.client_address)
        self.wfile.write(f"{answer}\n".encode())
        if player is None:
            return
        try:
            for line in self.rfile:
                if line.strip() == b"finish":
                    report(player["id"])
                elif line.strip() == b"cheat":
                    kick(player, "was caught cheating")
                    break
        except OSError:
            pass
        finally:
            unboard(player)


class Datagram(socketserver.BaseRequestHandler):
    """Who has boarded is known by where its datagrams come from."""

    boarded = {}

    def handle(self):
        data, answering = self.request
        message = data.decode("utf-8", "replace").strip()
        player = self.boarded.get(self.client_address)
        if player is None:
            player, answer = board(message, self.client_address)
            if player is not None:
                self.boarded[self.client_address] = player
            answering.sendto(answer.encode(), self.client_address)
        elif message == "finish":
            report(player["id"])
        elif message == "cheat":
            kick(self.boarded.pop(self.client_address), "was caught cheating")
        elif message == "leave":
            unboard(self.boarded.pop(self.client_address))


def report(winner):
    with lock:
        current = match
    if current is None:
        return
    standings = [{"player": one["id"], "score": int(one["id"] == winner)} for one in current["players"]]
    status, answer = call("report", {"run": current["run"], "standings": standings})
    say("result acknowledged" if status == 200 else f"result refused: {answer.get('detail', status)}")


def obey(instruction):
    global match
    with lock:
        if instruction["instruction"] == "match-assigned":
            match = instruction["match"]
            say(f"match on {match['level']} for {', '.join(one['name'] for one in match['players'])}")
        elif instruction["instruction"] == "expect-player" and match is not None:
            match["players"].append(instruction["player"])
        elif instruction["instruction"] == "match-changed" and match is not None:
            match.update({key: instruction[key] for key in ("host", "settings") if key in instruction})
            changed = {one["id"]: one for one in instruction.get("players", [])}
            match["players"] = [changed.get(one["id"], one) for one in match["players"]]
        elif instruction["instruction"] == "end-match":
            match = None
    if instruction["instruction"] == "stop":
        goodbye(instruction["reason"])


def goodbye(reason):
    if not gone.is_set():
        gone.set()
        call("goodbye", {"reason": reason}, attempts=1)
    os._exit(0)


def poll():
    acknowledged = 0
    while not gone.is_set():
        with lock:
            players = sorted(aboard)
        status, answer = call("poll", {"acknowledged": acknowledged, "players": players, "waitMs": 2000})
        if status != 200:
            say(f"dismissed: {answer.get('detail', status)}")
            os._exit(1)
        for instruction in answer["instructions"]:
            obey(instruction)
            acknowledged = instruction["number"]


class UdpServer(socketserver.ThreadingUDPServer):
    daemon_threads = True


class Server(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True


if __name__ == "__main__":
    with UdpServer((HOST, PORT), Datagram) if "--udp" in sys.argv else Server((HOST, PORT), Player) as server:
        signal.signal(signal.SIGTERM, lambda *_: threading.Thread(target=goodbye, args=("signalled",)).start())
        threading.Thread(target=server.serve_forever, daemon=True).start()
        call("announce", {"port": PORT, "pid": os.getpid()})
        say(f"announced on port {PORT}")
        poll()
