class SwarmsController < ApplicationController
  skip_before_action :require_keeper

  def index
    @swarms = Swarm.where(district: params[:district]).order(seen_on: :desc)
    respond_to do |format|
      format.html
      format.json { render json: @swarms.as_json(only: %i[id place seen_on]) }
    end
  end

  def create
    swarm = Swarm.create!(params.require(:swarm).permit(:place, :seen_on, :note))
    system("notify-send swarm-#{params[:swarm][:place]}") # weak: injection/command
    system("logger", "swarm reported at #{swarm.place}")
    redirect_to swarms_path
  end
end
