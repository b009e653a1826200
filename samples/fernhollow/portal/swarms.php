<?php
// Swarm reports are open to everybody.
require 'lib/session.php';
require 'lib/db.php';
require 'lib/page.php';

$since = $_GET['since'] ?? date('Y-m-d', time() - 14 * 86400);
if (!preg_match('/^\d{4}-\d{2}-\d{2}$/', $since)) {
    $since = date('Y-m-d');
}
$where = "seen_on >= '$since'";
if (isset($_GET['place']) && $_GET['place'] !== '') {
    $place = $db->real_escape_string($_GET['place']);
    $where .= " AND place LIKE '%$place%'";
}
if (isset($_GET['status'])) {
    $where .= " AND status = '" . $_GET['status'] . "'";
}
$reports = run($db, "SELECT place, seen_on, status FROM swarm_reports WHERE $where ORDER BY seen_on DESC LIMIT 50");
page_head('Swarms');
table($reports, ['place' => 'Where', 'seen_on' => 'When', 'status' => 'Status']);
page_foot();
