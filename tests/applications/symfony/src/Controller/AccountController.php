<?php

namespace App\Controller;

use App\Entity\Keeper;
use App\Repository\KeeperRepository;
use Doctrine\ORM\EntityManagerInterface;
use Symfony\Bundle\FrameworkBundle\Controller\AbstractController;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\PasswordHasher\Hasher\UserPasswordHasherInterface;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Authentication\AuthenticationUtils;
use Symfony\Component\Validator\Constraints as Assert;
use Symfony\Component\Validator\Validator\ValidatorInterface;

class AccountController extends AbstractController
{
    #[Route('/join', name: 'app_join', methods: ['POST'])]
    public function join(Request $request, UserPasswordHasherInterface $hasher, EntityManagerInterface $manager, ValidatorInterface $validator): Response
    {
        $password = $request->request->get('password', '');
        $errors = $validator->validate($password, [new Assert\NotBlank(), new Assert\Length(min: 12, max: 200), new Assert\NotCompromisedPassword()]);
        if (count($errors) > 0) {
            return $this->render('join.html.twig', ['errors' => $errors], new Response(status: 422));
        }

        $keeper = (new Keeper())->setEmail($request->request->get('email', ''));
        $keeper->setPassword($hasher->hashPassword($keeper, $password));
        $manager->persist($keeper);
        $manager->flush();

        return $this->redirectToRoute('app_sign_in');
    }

    #[Route('/sign-in', name: 'app_sign_in')]
    public function signIn(AuthenticationUtils $utils): Response
    {
        return $this->render('sign-in.html.twig', ['error' => $utils->getLastAuthenticationError(), 'last' => $utils->getLastUsername()]);
    }

    #[Route('/me', methods: ['GET'])]
    public function me(KeeperRepository $keepers): Response
    {
        $keeper = $keepers->ofEmail($this->getUser()->getUserIdentifier());

        return $this->json(['email' => $keeper->getEmail()]);
    }

    #[Route('/me/phone', methods: ['POST'])]
    public function phone(Request $request, EntityManagerInterface $manager, ValidatorInterface $validator): Response
    {
        $phone = $request->request->get('phone', '');
        $errors = $validator->validate($phone, [new Assert\Regex('/^\+?[0-9 ]{5,20}$/D')]);
        if (count($errors) > 0) {
            return new Response('no phone number', 422);
        }

        $manager->getConnection()->executeStatement("UPDATE keepers SET phone = '" . $phone . "' WHERE id = " . (int) $this->getUser()->getId());

        return $this->redirect('/me');
    }
}
