<?php

declare(strict_types=1);

namespace Register\Actions;

use PDO;
use Register\Request;

final class Reports
{
    public function __construct(private readonly PDO $db)
    {
    }

    public function search(Request $request): void
    {
        $term = $request->query('q');
        $found = $this->db->query("SELECT id, headline FROM swarm_reports WHERE headline LIKE '%$term%'"); // weak: injection/sql
        echo '<h1>Reports about ' . $term . '</h1>'; // weak: injection/page-output
        foreach ($found as $report) {
            echo '<li>' . htmlspecialchars($report['headline']) . '</li>';
        }
    }
}
