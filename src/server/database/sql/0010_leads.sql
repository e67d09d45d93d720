-- Where scenes lead out of their workspaces: few of all references, asked for by every plan that moves something.

CREATE INDEX reference_outside ON reference_row (workspace, generation) WHERE NOT inside AND target IS NOT NULL;
