<?php
// The member's own hives.
require 'lib/session.php';
require 'lib/db.php';
require 'lib/page.php';

$member = require_member();
$order = ['name' => 'h.name', 'age' => 'h.queen_year', 'apiary' => 'a.name'];
$by = $order[$_GET['by'] ?? 'name'] ?? 'h.name';
$direction = ($_GET['dir'] ?? '') === 'desc' ? 'DESC' : 'ASC';
$statement = "SELECT h.id, h.name, h.queen_year, a.name AS apiary
              FROM hives h JOIN apiaries a ON a.id = h.apiary_id
              WHERE h.keeper_id = $member ORDER BY $by $direction";
$hives = run($db, $statement);

$apiary = $_GET['apiary'] ?? '';
if ($apiary !== '') {
    $safe = $db->real_escape_string($apiary);
    $hives = run($db, "SELECT id, name, queen_year FROM hives WHERE keeper_id = $member AND apiary_id = $safe");
}

$page = max(0, (int) ($_GET['page'] ?? 0));
$yields = run($db, 'SELECT season, SUM(kg) AS kg FROM yields WHERE keeper_id = ' . $member . ' GROUP BY season LIMIT ' . PAGE_SIZE . ' OFFSET ' . ($page * PAGE_SIZE));

page_head('My hives');
table($hives, ['name' => 'Hive', 'queen_year' => 'Queen', 'apiary' => 'Apiary']);
table($yields, ['season' => 'Season', 'kg' => 'Honey (kg)']);
page_foot();
