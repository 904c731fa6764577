// Modules are loaded once for many files of tests: what stays in them between tests of one file is not to stay from file to file.
import { cleanup } from '@testing-library/react';
import { addEventHandler, getState } from 'jest-circus';
import { db } from '@/store/db';
import { useToasts } from '../theme/toast';
import { leaveBench } from './bench';

async function startAfresh(): Promise<void> {
  await leaveBench();
  await Promise.all(db.tables.map((table) => table.clear()));
  useToasts.setState({ list: [], said: [], unread: 0 });
}

const told = new WeakSet<object>();
addEventHandler(({ name }) => {
  const file = getState().rootDescribeBlock;
  if (name !== 'add_test' || told.has(file)) return;
  told.add(file);
  const hook = { parent: file, seenDone: false, asyncError: new Error(), timeout: null };
  file.hooks.unshift({ type: 'beforeAll', fn: startAfresh, ...hook }, { type: 'afterEach', fn: cleanup, ...hook });
});
