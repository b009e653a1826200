// The service behind the field application.
const express = require('express');
const session = require('express-session');
const members = require('./routes/members');
const signin = require('./routes/signin');
const hives = require('./routes/hives');
const inspections = require('./routes/inspections');
const swarms = require('./routes/swarms');
const yields = require('./routes/yields');
const { onError } = require('./middleware/errors');

const app = express();
app.use(express.json({ limit: '64kb' }));
app.use(session({
  secret: process.env.SESSION_SECRET,
  resave: false,
  saveUninitialized: false,
  cookie: { httpOnly: true, secure: true, sameSite: 'lax', maxAge: 8 * 3600 * 1000 },
}));

app.use('/api/members', members);
app.use('/api/session', signin);
app.use('/api/hives', hives);
app.use('/api/inspections', inspections);
app.use('/api/swarms', swarms);
app.use('/api/yields', yields);
app.use(onError);

if (require.main === module) {
  app.listen(process.env.PORT || 3100);
}

module.exports = app;
