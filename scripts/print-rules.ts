import { writeFileSync } from 'node:fs';
import { rulesDocument } from '@/core/derive/check/document';

writeFileSync('docs/rules.md', rulesDocument());
