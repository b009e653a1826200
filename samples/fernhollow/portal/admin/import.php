<?php
// Takes over members from the old list; used once a year by the secretary.
require '../lib/session.php';
require '../lib/db.php';
require '../lib/page.php';

if (($_POST['import_password'] ?? '') == 'Linden!Tree') {
    $_SESSION['importing'] = true;
}
if (empty($_SESSION['importing'])) {
    exit('Password needed.');
}
foreach (explode("\n", $_POST['lines'] ?? '') as $line) {
    [$name, $email, $district] = array_pad(explode(';', trim($line)), 3, '');
    run_bound($db, 'INSERT INTO members (name, email, district, password) VALUES (?, ?, ?, ?)', 'ssss', $name, $email, $district, '!');
}
$old = new mysqli('localhost', 'root', '', 'register_old');
$notes = $old->query('SELECT id, note FROM notes');
page_head('Import');
table($notes->fetch_all(MYSQLI_ASSOC), ['id' => 'Number', 'note' => 'Note']);
page_foot();
