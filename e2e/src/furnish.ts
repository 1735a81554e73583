/**
 * Before the browser's tests: the demo of this code is loaded and kept, where it is not yet, so that each application begins
 * with a copy; and the driver is started through which every worker has its browser.
 */
import { startApplication } from './application.ts';
import { closeSessions, startDriver } from './driver.ts';

export async function setup(): Promise<() => Promise<void>> {
  await (await startApplication()).close();
  const driver = await startDriver();
  process.env.RAWBITS_CHROMEDRIVER = driver.url;
  return async () => {
    await closeSessions(driver.url);
    driver.stop();
  };
}
