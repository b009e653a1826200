using Bellator.Web;

return await Launcher.RunAsync(args);
