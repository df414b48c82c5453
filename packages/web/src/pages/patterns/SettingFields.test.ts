// @vitest-environment jsdom
import { DEFAULT_SETTINGS } from '@anthemion/core';
import { expect, test } from 'vitest';
import { SETTING_GROUPS } from './SettingFields.tsx';

test('every setting is in one group, and only there', () => {
  expect(SETTING_GROUPS.flatMap(([, keys]) => keys).sort()).toEqual(Object.keys(DEFAULT_SETTINGS).sort());
});
