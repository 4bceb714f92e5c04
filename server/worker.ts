import { Logger, run, type TaskList, type WorkerEvents } from 'graphile-worker';
import { EventEmitter } from 'node:events';
import { syncDirectory } from './people/sync-directory.ts';
import { follow } from './staff/follow.ts';
import { readStaff } from './staff/reading.ts';
import { letIn } from './groups/let-in.ts';
import { reconcileGroup, reconcileGroups } from './groups/reconcile.ts';
import { askOfRow } from './tables/asking.ts';
import { readTable, readTables } from './tables/reading.ts';
import { useSettings } from './config.ts';
import { connections, disconnect } from './db/database.ts';
import { log } from './log.ts';
import { watch } from './watchdog.ts';
import { liveness } from './runtime/liveness.ts';
import { exchangeWords } from './conversation/exchange.ts';
import { tendCall } from './calls/tend.ts';
import { timerOf, type Jobs } from './runtime/jobs.ts';
import { makeLetter } from './letters/make.ts';
import { arrangeMeeting } from './meetings/arrange.ts';
import { deliverMail } from './mail/hand-over.ts';
import { keepReadingChat, readChat, sayInChat } from './chat/intake.ts';
import { replaceWhoLeft } from './runtime/staff.ts';
import { publishRelease } from './items/releases.ts';
import { askToConfirm } from './outside/confirm-mail.ts';
import { tellPromises } from './requests/tell-promises.ts';
import { recount, ticketTime } from './tickets/time.ts';
import { readAll, readSystem } from './differences/reading.ts';
import { sweep } from './runtime/sweep.ts';
import { fireTimer } from './runtime/fire-timers.ts';

/** What only the database has to do with. Many at once: what comes in together is committed together (batched.ts). */
const inside: TaskList = {
  timer: (payload) => fireTimer(timerOf(payload)),
  ticketTime: (payload) => ticketTime((payload as Jobs['ticketTime']).caseId),
  promises: (payload) => tellPromises((payload as Jobs['promises']).runId),
};
/** What waits for somebody outside. Few at once, out of courtesy; and a slow system never holds the timers up. */
const outside: TaskList = {
  call: (payload) => tendCall((payload as Jobs['call']).callId),
  letter: (payload) => makeLetter((payload as Jobs['letter']).letterId),
  meeting: (payload) => arrangeMeeting((payload as Jobs['meeting']).meetingId),
  mail: (payload) => deliverMail((payload as Jobs['mail']).messageId),
  syncDirectory: async () => void (await syncDirectory()),
  readStaff,
  staffHappening: (payload) => follow((payload as Jobs['staffHappening']).id),
  replaceWhoLeft: async () => void (await replaceWhoLeft()),
  release: (payload) => publishRelease((payload as Jobs['release']).releaseId),
  confirmOutside: (payload) => askToConfirm((payload as Jobs['confirmOutside']).publicRequestId),
  recount: (payload) => recount(payload as Jobs['recount']),
  readSystem: (payload) => readSystem((payload as Jobs['readSystem']).system),
  readSystems: readAll,
  readTable: (payload) => readTable((payload as Jobs['readTable']).table),
  words: (payload) => exchangeWords((payload as Jobs['words']).callId),
  askOfRow: (payload) => askOfRow((payload as Jobs['askOfRow']).id),
  readTables,
  reconcileGroups,
  reconcileGroup: (payload) => reconcileGroup((payload as Jobs['reconcileGroup']).group),
  letIn: (payload) => letIn((payload as Jobs['letIn']).id),
  sweep,
  readChat,
  sayInChat: (payload) => sayInChat(payload as Jobs['sayInChat']),
};
/** The directory and the staff feed are read every five minutes (common practice), what systems have each night; after each reading of the directory the conditions of groups are held against it; the sweep, and which tables are to be read, are looked at every minute. Every job has a key (see sweep.ts), these too. */
const crontab = [
  '*/5 * * * * syncDirectory ?max=3&jobKey=sync-directory',
  '*/5 * * * * readStaff ?max=3&jobKey=read-staff',
  '10 1 * * * readSystems ?max=3&jobKey=read-systems',
  '* * * * * readTables ?max=3&jobKey=read-tables',
  '* * * * * sweep ?max=3&jobKey=sweep',
].join('\n');

/** Runs the worker until it is told to stop. Any number may run on one database. */
async function main(): Promise<void> {
  useSettings(process.env);
  const alive = await liveness(() => process.exit(1));
  await alive.recover();
  const timer = setInterval(() => void alive.recover().catch((error: unknown) => log.error({ error }, 'recovery failed')), 2000);
  const pool = connections();
  const events = new EventEmitter() as WorkerEvents;
  events.on('pool:create', ({ workerPool }) => void alive.add(workerPool.id));
  events.on('worker:create', ({ worker }) => void alive.add(worker.workerId));
  const runJobs = (taskList: TaskList, concurrentJobs: number, crontabOfIts?: string) =>
    run({
      pgPool: pool,
      taskList,
      ...(crontabOfIts && { crontab: crontabOfIts }),
      noHandleSignals: true,
      events,
      preset: {
        worker: {
          concurrentJobs,
          pollInterval: 1000,
          // Some jobs are fetched ahead; those of a worker that dies are freed with the rest of what it had locked.
          localQueue: { size: 2 * concurrentJobs },
          // Ends of jobs are told together. A job told too late is done again, and then finds nothing to do.
          completeJobBatchDelay: 0,
        },
      },
      logger: new Logger(() => (level, message) => void (level === 'error' || level === 'warning' ? log.warn({ from: 'jobs' }, message) : undefined)),
    });
  const runners = await Promise.all([runJobs(inside, 64), runJobs(outside, 8, crontab)]);
  const stop = async () => {
    clearInterval(timer);
    await Promise.all(runners.map((r) => r.stop().catch(() => undefined)));
    await alive.stop();
    await disconnect();
    process.exit(0);
  };
  process.on('SIGTERM', () => void stop());
  process.on('SIGINT', () => void stop());
  await keepReadingChat();
  watch('worker');
  console.log('worker ready');
  await Promise.all(runners.map((r) => r.promise));
}

main().catch((error: unknown) => {
  log.fatal({ error: error instanceof Error ? error.message : error }, 'the worker cannot run');
  process.exit(1);
});
