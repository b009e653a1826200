const nodemailer = require('nodemailer');
const transport = nodemailer.createTransport({ host: process.env.SMTP_HOST, auth: { user: process.env.SMTP_USER, pass: process.env.SMTP_PASS } });
exports.send = (message) => transport.sendMail({ from: 'office@fernhollow.example', subject: 'Your account', ...message });
