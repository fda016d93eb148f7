import { soak } from './soak.ts';

/** `npm run soak`: a quarter of an hour, or as many minutes as are named. */
const minutes = Number(process.argv[2] ?? 15);
const report = await soak(
  { seconds: 60 * minutes, clients: 10, tabs: 10, outages: 5, outageSeconds: 20, hostileRequests: 2000, hostileFiles: 200 },
  (line) => process.stdout.write(`${line}\n`),
);
process.stdout.write(`${JSON.stringify(report, null, 2)}\n`);
process.exit(report.lost + report.outOfOrder + report.twice + report.jobsNotDone + report.faults.length > 0 ? 1 : 0);
