/** The server with accounts: where it is, its database, and where the stand-in for another service is to listen. */
export const PEOPLE = {
  url: `http://127.0.0.1:${process.env.MAVREK_E2E_PEOPLE_PORT ?? '4698'}`,
  database: process.env.MAVREK_E2E_PEOPLE_DATABASE ?? '',
  provider: `http://127.0.0.1:${process.env.MAVREK_E2E_PROVIDER_PORT ?? '4697'}`,
};
