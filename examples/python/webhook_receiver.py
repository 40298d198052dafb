"""Receives webhooks of Yellow Harbor, with the standard library alone.

    python3 webhook_receiver.py PORT SECRET [SECRET]

Prints each event that is signed with one of the secrets, once, as a line of JSON.
"""

import base64
import hashlib
import hmac
import json
import sys
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

TOLERANCE_S = 300


def key_of(secret: str) -> bytes:
    if secret.startswith("whsec_"):
        return base64.b64decode(secret[len("whsec_"):])
    return secret.encode()


def is_signed(headers, body: bytes, secrets) -> bool:
    webhook_id = headers.get("webhook-id", "")
    timestamp = headers.get("webhook-timestamp", "")
    if not timestamp.isdigit() or abs(time.time() - int(timestamp)) > TOLERANCE_S:
        return False
    text = f"{webhook_id}.{timestamp}.".encode() + body
    expected = [
        "v1," + base64.b64encode(hmac.new(key_of(secret), text, hashlib.sha256).digest()).decode()
        for secret in secrets
    ]
    shown = headers.get("webhook-signature", "").split(" ")
    return any(hmac.compare_digest(one, other) for one in shown for other in expected)


def handler_for(secrets):
    seen = set()

    class Receiver(BaseHTTPRequestHandler):
        protocol_version = "HTTP/1.1"

        def do_POST(self):
            body = self.rfile.read(int(self.headers.get("content-length", "0")))
            if not is_signed(self.headers, body, secrets):
                return self.answer(401)
            given = json.loads(body)
            for event in given if isinstance(given, list) else [given]:
                # The same event may come twice.
                identity = (event["source"], event["id"])
                if identity in seen:
                    continue
                seen.add(identity)
                print(json.dumps(event), flush=True)
            self.answer(204)

        def answer(self, status):
            self.send_response(status)
            self.send_header("content-length", "0")
            self.end_headers()

        def log_message(self, *_):
            pass

    return Receiver


if __name__ == "__main__":
    port, *own_secrets = sys.argv[1:]
    server = ThreadingHTTPServer(("127.0.0.1", int(port)), handler_for(own_secrets))
    print(json.dumps({"listening": server.server_port}), flush=True)
    server.serve_forever()
