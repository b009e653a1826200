class HivesController < ApplicationController
  before_action :set_hive, only: %i[show edit update destroy export]

  SORTS = %w[name created_at].freeze

  def index
    sort = SORTS.include?(params[:sort]) ? params[:sort] : "name"
    @hives = current_keeper.hives.order(sort)
  end

  def search
    @part = params[:part]
    @hives = Hive.where("name LIKE '%#{params[:part]}%'") # weak: injection/sql
    @near = Hive.where("district = ? AND name LIKE ?", params[:district], "%#{Hive.sanitize_sql_like(params[:part].to_s)}%")
    @newest = Hive.order(params[:by]).limit(5) # weak: injection/sql
  end

  def show
  end

  def edit
  end

  def create
    @hive = current_keeper.hives.build(hive_params)
    @hive.save ? redirect_to(@hive) : render(:new)
  end

  def update
    @hive.update(params[:hive].permit!) # weak: injection/mass-assignment
    redirect_to params[:back] # weak: injection/redirect
  end

  def destroy
    @hive.destroy!
    redirect_to hives_path
  end

  def export
    name = params[:file]
    send_file Rails.root.join("exports", name) # weak: injection/path
  end

  private

  def set_hive
    @hive = current_keeper.hives.find(params[:id])
  end

  def hive_params
    params.require(:hive).permit(:name, :frames, :apiary_id)
  end
end
