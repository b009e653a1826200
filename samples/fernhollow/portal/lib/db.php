<?php
// One connection for each request.
require_once __DIR__ . '/../config.php';

$db = new mysqli(DB_HOST, DB_USER, 'h0ney-2009', DB_NAME);
$db->set_charset('utf8mb4');

function run($db, $statement)
{
    $result = $db->query($statement);
    if ($result === false) {
        error_log('query failed: ' . $db->error);
        return [];
    }
    return $result === true ? [] : $result->fetch_all(MYSQLI_ASSOC);
}

function run_bound($db, $statement, $types, ...$values)
{
    $stmt = $db->prepare($statement);
    $stmt->bind_param($types, ...$values);
    $stmt->execute();
    $result = $stmt->get_result();
    return $result ? $result->fetch_all(MYSQLI_ASSOC) : [];
}

function one($rows)
{
    return count($rows) > 0 ? $rows[0] : null;
}
