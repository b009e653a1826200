<?php
// Treatments against mites in the member's district, with a summary by product.
require 'lib/session.php';
require 'lib/db.php';
require 'lib/page.php';

$member = require_member();
$district = $_SESSION['district'];
$season = (int) ($_GET['season'] ?? date('Y'));

$columns = ['product', 'apiary_id', 'given_on'];
$group = $_GET['group'] ?? 'product';
if (!in_array($group, $columns, true)) {
    $group = 'product';
}
$summary = run($db, "SELECT $group AS label, COUNT(*) AS times FROM treatments WHERE season = $season GROUP BY $group");

$product = $_GET['product'] ?? '';
$own = run_bound(
    $db,
    'SELECT t.given_on, t.product, h.name FROM treatments t JOIN hives h ON h.id = t.hive_id WHERE h.keeper_id = ? AND (? = "" OR t.product = ?)',
    'iss',
    $member,
    $product,
    $product
);

if (isset($_GET['export'])) {
    header('Content-Type: text/csv');
    $lot = $_GET['lot'] ?? '';
    $rows = run($db, sprintf("SELECT given_on, product FROM treatments WHERE season = %d AND lot = '%s'", $season, $lot));
    foreach ($rows as $row) {
        echo $row['given_on'] . ';' . $row['product'] . "\n";
    }
    exit;
}

page_head('Treatments');
table($summary, ['label' => 'Group', 'times' => 'Times']);
table($own, ['given_on' => 'Day', 'product' => 'Product', 'name' => 'Hive']);
page_foot();
