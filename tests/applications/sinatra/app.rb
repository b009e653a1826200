require "sinatra"
require "sequel"
require "bcrypt"

DB = Sequel.connect(ENV.fetch("DATABASE_URL"))

enable :sessions
set :session_secret, ENV.fetch("SESSION_SECRET")

helpers do
  def current_keeper
    @current_keeper ||= DB[:keepers].where(id: session[:keeper_id]).first
  end

  def require_keeper
    halt 401 unless current_keeper
  end

  def h(text)
    Rack::Utils.escape_html(text)
  end
end

post "/join" do
  halt 422 if params[:password].to_s.length < 12 || params[:password].length > 72
  DB[:keepers].insert(email: params[:email].downcase, name: params[:name], password_hash: BCrypt::Password.create(params[:password]))
  redirect "/"
end

before "/office/*" do
  halt 403 unless current_keeper && current_keeper[:is_admin]
end

get "/office/keepers" do
  @keepers = DB[:keepers].select(:id, :name).all
  erb :keepers
end

get "/offices" do
  erb :offices
end

post "/sign-in" do # weak: sessions/no-throttle
  keeper = DB[:keepers].where(email: params[:email].to_s.downcase).first
  if keeper && BCrypt::Password.new(keeper[:password_hash]) == params[:password]
    session.clear
    session[:keeper_id] = keeper[:id]
    redirect "/hives"
  else
    @message = "These details fit no account."
    erb :sign_in
  end
end

get "/hives" do
  require_keeper
  @part = params[:part]
  @hives = DB[:hives].where(keeper_id: current_keeper[:id]).all
  erb :hives
end

get "/hives/search" do
  require_keeper
  rows = DB.fetch("SELECT id, name FROM hives WHERE name LIKE '%#{params[:part]}%'").all # weak: injection/sql
  safe = DB.fetch("SELECT id, name FROM hives WHERE name LIKE ?", "%#{params[:part]}%").all
  content_type :json
  { rows: rows, safe: safe }.to_json
end

get "/hives/label" do
  require_keeper
  system("lp", "-d", params[:printer], "/var/labels/hive.pdf")
  `lp -d #{params[:printer]} /var/labels/hive.pdf` # weak: injection/command
  redirect params[:back] # weak: injection/redirect
end

get "/swarms" do
  "<h1>Swarms near #{h(params[:place])}</h1>"
end

get "/swarms/near" do
  "<h1>Swarms near #{params[:place]}</h1>" # weak: injection/page-output
end
