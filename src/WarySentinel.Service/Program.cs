using WarySentinel.Service;

return await Sentinel.RunAsync(args);
