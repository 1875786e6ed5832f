import { deviceChoices } from '@/server/devices';
import { answer, route } from '../http';

export const dynamic = 'force-dynamic';

export const GET = route(async () => answer({ devices: deviceChoices() }));
