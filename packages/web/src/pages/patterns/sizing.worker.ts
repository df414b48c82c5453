import { sizePattern } from '@anthemion/core';
import { expose } from 'comlink';

expose({ size: sizePattern });
