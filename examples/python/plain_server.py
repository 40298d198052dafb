#!/usr/bin/env python3
"""A small TCP server that knows nothing of Yellow Harbor: all that is known of it is what it prints.

A client sends its name as the first line, then words. "finish" ends the match. Python 3.8 or newer, standard library only.
"""
import argparse
import signal
import socketserver
import sys
import threading

players = {}
lock = threading.Lock()


def say(text):
    print(text, flush=True)


class Player(socketserver.StreamRequestHandler):
    def handle(self):
        name = self.rfile.readline(200).decode("utf-8", "replace").strip()
        if not name:
            return
        with lock:
            players[self] = name
        say(f"joined {name}")
        self.wfile.write(f"welcome {name}\n".encode())
        try:
            for line in self.rfile:
                word = line.decode("utf-8", "replace").strip()
                if word == "finish":
                    say(f"match over, {name} won")
        except OSError:
            pass
        finally:
            with lock:
                players.pop(self, None)
            say(f"left {name}")


class Server(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True


def main():
    options = argparse.ArgumentParser()
    options.add_argument("--host", default="127.0.0.1")
    options.add_argument("--port", type=int, required=True)
    options.add_argument("--level", default="")
    asked = options.parse_args()
    with Server((asked.host, asked.port), Player) as server:
        signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
        say(f"listening on {asked.port}, level {asked.level or 'any'}")
        server.serve_forever()


if __name__ == "__main__":
    main()
