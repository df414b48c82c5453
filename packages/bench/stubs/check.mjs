// Asks the bench process whether a file is fit to load; prints what it says. Plain Node: started for every check.
import { connect } from 'node:net';

const [kind, file] = process.argv.slice(2);
const socket = connect(process.env.BENCH_SOCKET);
let answer = '';
socket.setEncoding('utf8');
socket.on('data', (part) => (answer += part));
socket.on('end', () => {
  const { ok, text } = JSON.parse(answer);
  if (text) process.stderr.write(`${text}\n`);
  process.exitCode = ok ? 0 : 1;
});
socket.on('error', (error) => {
  process.stderr.write(`${error.message}\n`);
  process.exitCode = 1;
});
socket.end(`${JSON.stringify({ kind, file, serial: process.env.BENCH_SERIAL })}\n`);
