module Api
  class HivesController < ApplicationController
    skip_before_action :authenticate_keeper!, only: :show

    def index
      render json: current_keeper.hives
    end

    def show
      render json: Hive.find_by(id: params[:id]) # weak: records/no-sign-in
    end
  end
end
