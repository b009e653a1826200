<?php

namespace App\Repository;

use App\Entity\Hive;
use App\Entity\Keeper;
use Doctrine\Bundle\DoctrineBundle\Repository\ServiceEntityRepository;
use Doctrine\Persistence\ManagerRegistry;

/** @extends ServiceEntityRepository<Hive> */
class HiveRepository extends ServiceEntityRepository
{
    private const SORTABLE = ['name', 'id'];

    public function __construct(ManagerRegistry $registry)
    {
        parent::__construct($registry, Hive::class);
    }

    /** @return Hive[] */
    public function named(string $part, string $order): array
    {
        if (!in_array($order, self::SORTABLE, true)) {
            $order = 'name';
        }

        return $this->createQueryBuilder('h')
            ->andWhere('h.name LIKE :part')
            ->setParameter('part', '%' . $part . '%')
            ->orderBy('h.' . $order)
            ->getQuery()
            ->getResult();
    }

    /** @return Hive[] */
    public function inDistrict(string $district): array
    {
        return $this->createQueryBuilder('h')
            ->andWhere("h.district = '" . $district . "'") // weak: injection/query-language
            ->getQuery()
            ->getResult();
    }

    public function countOf(Keeper $keeper): int
    {
        return (int) $this->getEntityManager()->getConnection()->fetchOne('SELECT count(*) FROM hives WHERE keeper_id = ?', [$keeper->getId()]);
    }

    public function yields(string $year): array
    {
        $connection = $this->getEntityManager()->getConnection();

        return $connection->fetchAllAssociative('SELECT hive_id, kilos FROM yields WHERE year = ' . $year); // weak: injection/sql
    }
}
