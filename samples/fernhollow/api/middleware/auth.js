// Lets only signed-in members through.
function requireMember(req, res, next) {
  if (!req.session.memberId) {
    return res.status(401).json({ error: 'sign in first' });
  }
  return next();
}

function requireRole(role) {
  return (req, res, next) => {
    if (req.session.role !== role) {
      return res.status(403).json({ error: 'not allowed' });
    }
    return next();
  };
}

module.exports = { requireMember, requireRole };
