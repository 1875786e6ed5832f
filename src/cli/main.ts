import { runCli } from './program';

// Whoever reads may have had enough (`| head`): that is no failure.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit();
  throw error;
});

void runCli(process.argv.slice(2), {
  out: (text) => process.stdout.write(text),
  err: (text) => process.stderr.write(text),
  exit: (status) => {
    process.exitCode = status;
  },
});
