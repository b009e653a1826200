# The apiary planner of the district inspectors.
Rails.application.routes.draw do
  root 'apiaries#index'

  resource :session, only: %i[new create destroy]
  resources :inspectors, only: %i[new create]
  resources :apiaries, only: %i[index show update] do
    get :nearby, on: :collection
  end
end
