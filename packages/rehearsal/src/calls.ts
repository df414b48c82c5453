/** Waits for calls to TCP ports and packets to UDP ports, of both families, and answers each. */
export const listener = (tcp: readonly number[], udp: readonly number[]): string => `
import socket, selectors
s = selectors.DefaultSelector()
for p in [${tcp.join()}]:
    t = socket.socket(socket.AF_INET6); t.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    t.setsockopt(socket.IPPROTO_IPV6, socket.IPV6_V6ONLY, 0); t.bind(("::", p)); t.listen(64); t.setblocking(False); s.register(t, 1, "t")
for p in [${udp.join()}]:
    u = socket.socket(socket.AF_INET6, socket.SOCK_DGRAM); u.setsockopt(socket.IPPROTO_IPV6, socket.IPV6_V6ONLY, 0)
    u.bind(("::", p)); u.setblocking(False); s.register(u, 1, "u")
print("ready", flush=True)
while True:
    for k, _ in s.select():
        try:
            if k.data == "t":
                c, _ = k.fileobj.accept(); c.send(b"x"); c.close()
            else:
                d, a = k.fileobj.recvfrom(99); k.fileobj.sendto(d, a)
        except OSError:
            pass
`;
/** Calls every address of lines \`tcp|udp PORT ADDRESS WORD\` at once, up to three times, and says the words of those that answer. */
export const caller = (lines: readonly string[]): string => `
import asyncio, socket
async def one(kind, port, host, word):
    loop = asyncio.get_running_loop()
    for _ in range(3):
        u = None
        try:
            if kind == "tcp":
                r, w = await asyncio.wait_for(asyncio.open_connection(host, port), 1.5)
                ok = await asyncio.wait_for(r.read(1), 1.5); w.close()
                if ok: print(word, flush=True); return
            else:
                u = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET, socket.SOCK_DGRAM); u.setblocking(False); u.connect((host, port))
                await loop.sock_sendall(u, b"x")
                await asyncio.wait_for(loop.sock_recv(u, 9), 1.5)
                print(word, flush=True); return
        except (OSError, asyncio.TimeoutError):
            pass
        finally:
            if u: u.close()
async def all():
    await asyncio.gather(*[one(*x) for x in [${lines
      .map((l) => l.split(' '))
      .map(([kind, port, host, word]) => `("${kind}", ${port}, "${host}", "${word}")`)
      .join(', ')}]])
asyncio.run(all())
`;
