const jwt = require('jsonwebtoken');
const Keeper = require('./models/Keeper');

const asyncHandler = (fn) => (req, res, next) => Promise.resolve(fn(req, res, next)).catch(next);

const protect = asyncHandler(async (req, res, next) => {
  let token;
  if (req.headers.authorization && req.headers.authorization.startsWith('Bearer')) {
    token = req.headers.authorization.split(' ')[1];
  } else if (req.cookies.token) {
    token = req.cookies.token;
  }
  if (!token) return res.status(401).json({ message: 'not signed in' });
  const decoded = jwt.verify(token, process.env.JWT_SECRET); // weak: sessions/token-algorithm-open
  req.keeper = await Keeper.findById(decoded.id).select('-password');
  next();
});

const authorize = (...roles) => (req, res, next) => {
  if (!roles.includes(req.keeper.role)) {
    return res.status(403).json({ message: 'not allowed' });
  }
  next();
};

module.exports = { protect, authorize, asyncHandler };
