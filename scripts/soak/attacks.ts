// What a network full of bad luck and bad will does to a server, a piece at a time. All of it goes to loopback.
import { connect, type Socket } from 'node:net';

const rest = (ms: number) => new Promise((done) => setTimeout(done, ms));

/** Uploads that begin, send a little, and stand still. @returns how to let go of them */
export function halfOpenUploads(port: number, count: number): () => void {
  const sockets = Array.from({ length: count }, (_, n) => {
    const socket = connect(port, '127.0.0.1');
    socket.on('error', () => {});
    const path = n % 2 ? '/api/sessions/import' : '/api/stems?name=half.wav&rate=48000';
    socket.write(
      `POST ${path} HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nContent-Length: 90000000\r\n\r\n${n % 3 ? 'RIFF' : ''}`,
    );
    return socket;
  });
  return () => sockets.forEach((s: Socket) => s.destroy());
}

const MESSAGES = [
  '42["join"]',
  '42[1,"x"]',
  '42["error","x"]',
  '42["live",null]',
  '42["live",{"drag":"g","commands":[{"type":"explode"}]}]',
  '451-["live",{"_placeholder":true,"num":9}]',
  '42["join",{"session":{}}]',
  '42[{}]',
  '4',
  'no message at all',
];

/** Sends messages that are none, by long polling. @returns how many were sent */
export async function malformedMessages(base: string): Promise<number> {
  const at = `${base}/socket/?EIO=4&transport=polling`;
  let sent = 0;
  for (const raw of MESSAGES) {
    try {
      const { sid } = JSON.parse((await (await fetch(at)).text()).slice(1)) as { sid: string };
      const post = (body: string) => fetch(`${at}&sid=${sid}`, { method: 'POST', body });
      await post('40');
      await post(raw);
      sent++;
    } catch {
      // The server is away just now.
    }
  }
  return sent;
}

/** Requests that are none. @returns how many were sent */
export async function malformedRequests(base: string, session: string): Promise<number> {
  const asks: [string, string, string | undefined][] = [
    ['GET', '/api/sessions/abc/changes', undefined],
    ['DELETE', `/api/presets/${'-'.repeat(36)}`, undefined],
    ['POST', '/api/sessions', undefined],
    ['POST', `/api/sessions/${session}/commits`, '{"revision":-1}'],
    ['POST', `/api/sessions/${session}/commits`, '{'],
    [
      'POST',
      `/api/sessions/${session}/commits`,
      `{"revision":0,"changeId":"x","label":"${'x'.repeat(10_000)}"}`,
    ],
    ['GET', `/api/stems/sha256:${'0'.repeat(64)}/pcm?frames=1e99`, undefined],
    ['POST', '/api/stems?name=letter.wav&rate=48000', 'Dear Sir,'],
    ['POST', '/api/sessions/import', 'PK no package'],
    ['PATCH', '/api/uploads/../../etc/passwd', 'x'],
  ];
  let sent = 0;
  for (const [method, path, body] of asks) {
    await fetch(base + path, { method, body, headers: { 'Content-Type': 'application/json' } }).then(
      () => sent++,
      () => {},
    );
  }
  return sent;
}

/** A flood of messages by one socket. @returns how many were sent */
export async function flood(base: string, session: string, count: number): Promise<number> {
  const { io } = await import('socket.io-client');
  const socket = io(base, { path: '/socket', transports: ['websocket'], reconnection: false });
  const there = await new Promise<boolean>((done) => {
    socket.once('connect', () => done(true));
    socket.once('connect_error', () => done(false));
  });
  if (there) {
    socket.emit('join', { session });
    for (let n = 0; n < count; n++) {
      socket.emit('live', {
        drag: `flood ${n % 5}`,
        commands: [{ type: 'strip.set', id: 'main', patch: { faderDb: -(n % 60) || 0 } }],
      });
      if (n % 500 === 0) await rest(10);
    }
    await rest(50);
  }
  socket.close();
  return there ? count : 0;
}
