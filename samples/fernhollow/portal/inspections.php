<?php
// Inspections of one hive, and a new one.
require 'lib/session.php';
require 'lib/db.php';
require 'lib/page.php';

$member = require_member();
$hive = filter_input(INPUT_GET, 'hive', FILTER_VALIDATE_INT);
$own = one(run_bound($db, 'SELECT id, name FROM hives WHERE id = ? AND keeper_id = ?', 'ii', $hive, $member));
if ($own === null) {
    http_response_code(404);
    exit('No such hive.');
}
if ($_SERVER['REQUEST_METHOD'] === 'POST') {
    check_token();
    $mites = (int) $_POST['mites'];
    $note = substr($_POST['note'] ?? '', 0, 500);
    run_bound($db, 'INSERT INTO inspections (hive_id, mites, note, seen_on) VALUES (?, ?, ?, CURDATE())', 'iis', $own['id'], $mites, $note);
}
$rows = run_bound($db, 'SELECT seen_on, mites, note FROM inspections WHERE hive_id = ? ORDER BY seen_on DESC', 'i', $own['id']);
page_head('Inspections of ' . $own['name']);
table($rows, ['seen_on' => 'Day', 'mites' => 'Mites', 'note' => 'Note']);
page_foot();
