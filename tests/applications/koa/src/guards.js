async function signedIn(ctx, next) {
  ctx.assert(ctx.state.keeper, 401, 'sign in first');
  await next();
}

const hasRole = (...roles) => async (ctx, next) => {
  if (!ctx.state.keeper) ctx.throw(401);
  if (!roles.includes(ctx.state.keeper.role)) ctx.throw(403, 'not yours');
  return next();
};

module.exports = { signedIn, hasRole };
