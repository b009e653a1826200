// The last handler: logs what happened and says little.
function onError(error, req, res, next) {
  console.error(req.method, req.path, error.message);
  if (res.headersSent) {
    return next(error);
  }
  return res.status(500).json({ error: 'something went wrong' });
}

module.exports = { onError };
