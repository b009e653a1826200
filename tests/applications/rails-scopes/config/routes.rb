Rails.application.routes.draw do
  resources :hives
  resources :sessions, only: %i[new create destroy]
end
