<?php

namespace App\Entity;

use App\Repository\HiveRepository;
use Doctrine\ORM\Mapping as ORM;

#[ORM\Entity(repositoryClass: HiveRepository::class)]
#[ORM\Table(name: 'hives')]
class Hive
{
    #[ORM\Id]
    #[ORM\GeneratedValue]
    #[ORM\Column]
    private ?int $id = null;

    #[ORM\Column(length: 80)]
    private ?string $name = null;

    #[ORM\ManyToOne]
    #[ORM\JoinColumn(nullable: false)]
    private ?Keeper $keeper = null;

    public function getId(): ?int
    {
        return $this->id;
    }

    public function getName(): ?string
    {
        return $this->name;
    }

    public function setName(string $name): static
    {
        $this->name = $name;

        return $this;
    }

    public function getKeeper(): ?Keeper
    {
        return $this->keeper;
    }

    public function setKeeper(Keeper $keeper): static
    {
        $this->keeper = $keeper;

        return $this;
    }
}
