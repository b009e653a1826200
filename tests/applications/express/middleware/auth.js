const Keeper = require('../models/keeper');

async function requireKeeper(req, res, next) {
  if (!req.session.keeperId) {
    return res.status(401).json({ error: 'sign in first' });
  }
  req.keeper = await Keeper.findById(req.session.keeperId);
  next();
}

function requireOffice(req, res, next) {
  if (req.keeper.role !== 'office') {
    return res.status(403).json({ error: 'only for the office' });
  }
  next();
}

module.exports = { requireKeeper, requireOffice };
