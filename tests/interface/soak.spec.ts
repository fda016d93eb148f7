import { expect, test } from '@playwright/test';
import { soak } from '../../bench/soak.ts';

test('nothing that was saved is lost while processes are killed and the database goes away', async () => {
  test.setTimeout(400_000);
  const report = await soak({
    seconds: 50,
    clients: 4,
    tabs: 0,
    outages: 1,
    outageSeconds: 5,
    hostileRequests: 100,
    hostileFiles: 3,
  });
  expect(report).toMatchObject({ lost: 0, outOfOrder: 0, twice: 0, jobsNotDone: 0, faults: [] });
  expect(report.decided).toBeGreaterThan(50);
  expect(report.kills).toBeGreaterThan(1);
});
