"""A WebSocket client (RFC 6455) in the standard library: text and binary frames, pings, and the closing handshake."""
import base64
import hashlib
import os
import socket
import ssl
import struct
from urllib.parse import urlsplit

GUID = "258EAFA5-E914-47DA-95CA-C5AB0DC85B11"
TEXT, BINARY, CLOSE, PING, PONG = 0x1, 0x2, 0x8, 0x9, 0xA


class Closed(Exception):
    """The connection is over. `code` is 1006 when no close frame came."""

    def __init__(self, code, reason=""):
        super().__init__(f"closed with {code} {reason}".strip())
        self.code = code
        self.reason = reason


class WebSocket:
    def __init__(self, url, subprotocol, timeout=10):
        parts = urlsplit(url)
        port = parts.port or (443 if parts.scheme in ("wss", "https") else 80)
        self.socket = socket.create_connection((parts.hostname, port), timeout)
        if parts.scheme in ("wss", "https"):
            self.socket = ssl.create_default_context().wrap_socket(self.socket, server_hostname=parts.hostname)
        self.socket.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        self.buffer = b""
        self._handshake(parts, subprotocol)

    def _handshake(self, parts, subprotocol):
        key = base64.b64encode(os.urandom(16)).decode()
        head = [
            f"GET {parts.path or '/'} HTTP/1.1",
            f"Host: {parts.netloc}",
            "Connection: Upgrade",
            "Upgrade: websocket",
            "Sec-WebSocket-Version: 13",
            f"Sec-WebSocket-Key: {key}",
            f"Sec-WebSocket-Protocol: {subprotocol}",
        ]
        self.socket.sendall(("\r\n".join(head) + "\r\n\r\n").encode())
        while b"\r\n\r\n" not in self.buffer:
            self._read()
        answer, self.buffer = self.buffer.split(b"\r\n\r\n", 1)
        if not answer.startswith(b"HTTP/1.1 101"):
            raise ConnectionError(answer.decode("latin-1") + self.buffer.decode("utf-8", "replace"))
        accept = base64.b64encode(hashlib.sha1((key + GUID).encode()).digest())
        if accept not in answer:
            raise ConnectionError("the answer to the handshake is not that of a WebSocket server")

    def _read(self):
        part = self.socket.recv(65536)
        if not part:
            raise Closed(1006)
        self.buffer += part

    def send(self, text):
        self._write(TEXT, text.encode())

    def send_bytes(self, payload):
        self._write(BINARY, payload)

    def _write(self, opcode, payload):
        size = len(payload)
        if size < 126:
            head = struct.pack("!BB", 0x80 | opcode, 0x80 | size)
        elif size < 65536:
            head = struct.pack("!BBH", 0x80 | opcode, 0x80 | 126, size)
        else:
            head = struct.pack("!BBQ", 0x80 | opcode, 0x80 | 127, size)
        mask = os.urandom(4)
        body = bytes(byte ^ mask[at % 4] for at, byte in enumerate(payload))
        self.socket.sendall(head + mask + body)

    def receive(self, timeout):
        """The next text, or bytes of a binary frame, or None when nothing came in so many seconds. Raises Closed when it is over."""
        while True:
            frame = self._frame()
            if frame is None:
                self.socket.settimeout(max(0.001, timeout))
                try:
                    self._read()
                except (socket.timeout, TimeoutError):
                    return None
                except OSError:
                    raise Closed(1006)
                continue
            opcode, payload = frame
            if opcode == TEXT:
                return payload.decode()
            if opcode == BINARY:
                return payload
            if opcode == PING:
                self._write(PONG, payload)
            if opcode == CLOSE:
                code = struct.unpack("!H", payload[:2])[0] if len(payload) >= 2 else 1005
                self.drop()
                raise Closed(code, payload[2:].decode("utf-8", "replace"))

    def _frame(self):
        """One whole frame out of what was read, or None. The service sends no fragments."""
        if len(self.buffer) < 2:
            return None
        opcode, size, at = self.buffer[0] & 0x0F, self.buffer[1] & 0x7F, 2
        if size == 126:
            size, at = struct.unpack("!H", self.buffer[2:4])[0] if len(self.buffer) >= 4 else 1 << 62, 4
        elif size == 127:
            size, at = struct.unpack("!Q", self.buffer[2:10])[0] if len(self.buffer) >= 10 else 1 << 62, 10
        if len(self.buffer) < at + size:
            return None
        payload, self.buffer = self.buffer[at : at + size], self.buffer[at + size :]
        return opcode, payload

    def drop(self):
        """Ends the connection without a word, as when a cable is pulled."""
        self.socket.close()
