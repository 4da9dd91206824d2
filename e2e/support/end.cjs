/** What the workers left running or lying about. */
module.exports = async () => {
  const { endShared } = await import('./stack.mjs');
  await endShared(process.env.JB_E2E_DIR);
};
