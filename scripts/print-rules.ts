import { writeFileSync } from 'node:fs';
import { rulesDocument } from '@/core/rules/document';

writeFileSync('docs/rules.md', rulesDocument());
