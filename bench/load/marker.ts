// What makes a folder a workspace.

export const makeWorkspaceFile = (name: string): string =>
  JSON.stringify({
    ...{ format: 1, name, created: '2026-11-01T08:00:00.000Z', layout: '' },
    ...{
      folders: ['scenes', 'textures'],
      homes: { texture: 'textures', scene: 'scenes' },
      libraries: [],
      places: [],
    },
  });
