import { everythingIsLocal } from '@/server/people/who';

/** Jest's set-up: tests of the server without accounts do what they do outside of any request. */
everythingIsLocal();
