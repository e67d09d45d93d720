// Every endpoint, in the order of the work: a file for each subject, with what its pages show.

import { aboveEndpoints } from './above';
import { arriveEndpoints } from './arrive';
import { backupEndpoints } from './backups';
import { bagEndpoints } from './bags';
import { collectEndpoints } from './collect';
import { dropEndpoints } from './drops';
import { fileEndpoints } from './files';
import { intakeEndpoints } from './intake';
import { layoutEndpoints } from './layouts';
import { nodeEndpoints } from './nodes';
import { peopleEndpoints } from './people';
import { pipelineEndpoints } from './pipelines';
import { planEndpoints } from './plans';
import { referenceEndpoints } from './references';
import { settingsEndpoints } from './settings';
import { shelfEndpoints } from './shelf';
import { stateEndpoints } from './state';
import { versionEndpoints } from './versions';
import { workspaceEndpoints } from './workspaces';

export const endpoints = [
  ...stateEndpoints,
  ...peopleEndpoints,
  ...aboveEndpoints,
  ...pipelineEndpoints,
  ...layoutEndpoints,
  ...shelfEndpoints,
  ...workspaceEndpoints,
  ...settingsEndpoints,
  ...referenceEndpoints,
  ...fileEndpoints,
  ...versionEndpoints,
  ...intakeEndpoints,
  ...dropEndpoints,
  ...planEndpoints,
  ...collectEndpoints,
  ...nodeEndpoints,
  ...bagEndpoints,
  ...arriveEndpoints,
  ...backupEndpoints,
];
