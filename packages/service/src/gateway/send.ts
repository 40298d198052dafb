import type { Socket } from "node:net";

/** What may wait for a socket at the most, in what it may leave unread. */
const BACKLOG_MAX = 4;

/**
 * The way out to one socket: frames gather here and go out in one write when the turn's work is spoken. The WebSocket
 * library sends only control frames on the same socket; both write whole frames, so they cannot tear each other.
 */
export class Sender {
  readonly #socket: Socket;
  readonly #maxUnreadBytes: number;
  /** Absent while nothing waits, as for most at any moment. */
  #frames: Buffer[] | undefined;
  #bytes = 0;

  constructor(socket: Socket, maxUnreadBytes: number) {
    this.#socket = socket;
    this.#maxUnreadBytes = maxUnreadBytes;
  }

  /** Takes a frame for the next {@link flush}. Returns whether it is the first one waiting. */
  add(frame: Buffer): boolean {
    this.#bytes += frame.length;
    if (this.#frames !== undefined) {
      this.#frames.push(frame);
      return false;
    }
    this.#frames = [frame];
    return true;
  }

  /**
   * Writes what has gathered. False when the other side has left more unread than it may: cut it then. Unread is what is
   * still there since the flush before, which the socket has had its chance with; what is large only now does not count,
   * unless it comes on top of what is left again and again.
   */
  flush(): boolean {
    const frames = this.#frames;
    if (frames === undefined) return true;
    this.#frames = undefined;
    const bytes = this.#bytes;
    this.#bytes = 0;
    if (this.#socket.destroyed) return true;
    const left = this.#socket.writableLength;
    if (left > this.#maxUnreadBytes || (left > 0 && left + bytes > BACKLOG_MAX * this.#maxUnreadBytes)) return false;
    this.#socket.write(frames.length === 1 ? (frames[0] as Buffer) : Buffer.concat(frames, bytes));
    return true;
  }
}
