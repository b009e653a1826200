<?php

namespace App\Repository;

use App\Entity\Keeper;
use Doctrine\Bundle\DoctrineBundle\Repository\ServiceEntityRepository;
use Doctrine\Persistence\ManagerRegistry;

/** @extends ServiceEntityRepository<Keeper> */
class KeeperRepository extends ServiceEntityRepository
{
    public function __construct(ManagerRegistry $registry)
    {
        parent::__construct($registry, Keeper::class);
    }

    public function ofEmail(string $email): ?Keeper
    {
        return $this->findOneBy(['email' => $email]);
    }
}
